import type { LucideIcon } from './icons';
import { Pressable, type PressableProps } from 'react-native';
import { Txt } from './Txt';

interface ButtonProps extends Omit<PressableProps, 'children'> {
  title: string;
  icon?: LucideIcon;
  /** strong: the primary action. plain: outlined. bare: text alone. */
  look?: 'strong' | 'plain' | 'bare';
}

const LOOKS = {
  strong: { box: 'bg-accent border-accent', ink: 'text-on-accent', colour: 'var(--on-accent)' },
  plain: { box: 'bg-surface border-edge', ink: 'text-ink', colour: 'var(--ink)' },
  bare: { box: 'border-transparent', ink: 'text-ink', colour: 'var(--ink)' },
} as const;

/** A button with text, at least 44 px high. */
export function Button({ title, icon: Icon, look = 'plain', className = '', disabled, ...rest }: ButtonProps) {
  const { box, ink, colour } = LOOKS[look];
  return (
    <Pressable
      role="button"
      aria-disabled={disabled ?? undefined}
      disabled={disabled}
      className={`min-h-[44px] flex-row items-center justify-center gap-2 rounded border-stroke px-4 ${box} ${disabled ? 'opacity-50' : 'active:opacity-70'} ${className}`}
      {...rest}
    >
      {Icon ? <Icon size={20} color={colour} aria-hidden /> : null}
      <Txt bold={look === 'strong'} ink={ink} numberOfLines={1}>
        {title}
      </Txt>
    </Pressable>
  );
}

interface IconButtonProps extends Omit<PressableProps, 'children'> {
  label: string;
  icon: LucideIcon;
  pressed?: boolean;
}

/** An icon button, 44 px square; `label` is for screen readers. */
export function IconButton({ label, icon: Icon, disabled, pressed, className = '', ...rest }: IconButtonProps) {
  return (
    <Pressable
      role="button"
      aria-label={label}
      aria-pressed={pressed}
      aria-disabled={disabled ?? undefined}
      disabled={disabled}
      className={`h-[44px] w-[44px] items-center justify-center rounded ${disabled ? 'opacity-35' : 'active:opacity-60'} ${className}`}
      {...rest}
    >
      <Icon size={22} color="var(--ink)" aria-hidden />
    </Pressable>
  );
}
