import { Pressable } from 'react-native';
import type { LucideIcon } from './icons';
import { Txt } from './Txt';

/** A tool in the head of a tray: an icon with a short word; `label` is for screen readers. */
export function Tool({
  label,
  short,
  icon: Icon,
  on,
  onPress,
}: {
  label: string;
  short: string;
  icon: LucideIcon;
  on: boolean;
  onPress(): void;
}) {
  return (
    <Pressable
      role="button"
      aria-label={label}
      aria-pressed={on}
      onPress={onPress}
      className={`min-h-[44px] flex-row items-center gap-[6px] rounded border-stroke border-edge px-[6px] ${on ? 'bg-accent' : 'bg-surface'}`}
    >
      <Icon size={18} color={on ? 'var(--on-accent)' : 'var(--ink)'} aria-hidden />
      <Txt bold={on} ink={on ? 'text-on-accent' : 'text-ink'}>
        {short}
      </Txt>
    </Pressable>
  );
}
