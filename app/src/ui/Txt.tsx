import { Text, type TextProps } from 'react-native';

const SIZES = { sm: 'text-sm', base: 'text-base', lg: 'text-lg', xl: 'text-xl' } as const;

/** Text for those who hear the screen. */
export const ONLY_HEARD = { position: 'absolute', width: 1, height: 1, overflow: 'hidden', opacity: 0 } as const;

interface Props extends TextProps {
  size?: keyof typeof SIZES;
  bold?: boolean;
  quiet?: boolean;
  /** Colour class; ink or quiet ink when left out. */
  ink?: string;
}

/** Text in the shipped typeface, figures of one width. */
export function Txt({ size = 'base', bold, quiet, ink, className = '', style, ...rest }: Props) {
  const colour = ink ?? (quiet ? 'text-quiet' : 'text-ink');
  return (
    <Text
      {...rest}
      className={`${bold ? 'font-bold' : 'font-sans'} ${SIZES[size]} ${colour} ${className}`}
      style={[{ fontVariant: ['tabular-nums'] }, style]}
    />
  );
}
