import { Children, type ReactNode } from 'react';
import { Text, type TextProps } from 'react-native';
import { unbroken } from './unbroken';

const SIZES = { sm: 'text-sm', base: 'text-base', lg: 'text-lg', xl: 'text-xl' } as const;

/** Text for screen readers. */
export const ONLY_HEARD = { position: 'absolute', width: 1, height: 1, overflow: 'hidden', opacity: 0 } as const;

interface Props extends TextProps {
  size?: keyof typeof SIZES;
  bold?: boolean;
  quiet?: boolean;
  /** Colour class; default: ink or quiet ink. */
  ink?: string;
}

/** Children with no-break spaces between numbers and units. */
function withUnits(children: ReactNode): ReactNode {
  if (typeof children === 'string') return unbroken(children);
  if (!Array.isArray(children)) return children;
  const parts = Children.toArray(children);
  const text = parts.every((part) => typeof part === 'string' || typeof part === 'number');
  return text ? unbroken(parts.join('')) : parts.map((p) => (typeof p === 'string' ? unbroken(p) : p));
}

/** Text in the shipped typeface, with tabular figures. */
export function Txt({ size = 'base', bold, quiet, ink, className = '', style, children, ...rest }: Props) {
  const colour = ink ?? (quiet ? 'text-quiet' : 'text-ink');
  return (
    <Text
      {...rest}
      className={`${bold ? 'font-bold' : 'font-sans'} ${SIZES[size]} ${colour} ${className}`}
      style={[{ fontVariant: ['tabular-nums'] }, style]}
    >
      {withUnits(children)}
    </Text>
  );
}
