import type { ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import { Check } from './icons';
import { onSpace } from './roving';

/** A selectable row, toggled by a tap, Enter or Space. */
export function CheckRow({
  label,
  on,
  onChange,
  children,
}: {
  label: string;
  on: boolean;
  onChange(on: boolean): void;
  children: ReactNode;
}) {
  const toggle = (): void => onChange(!on);
  return (
    <Pressable
      role="checkbox"
      aria-checked={on}
      aria-label={label}
      onPress={toggle}
      {...onSpace(toggle)}
      className="min-h-[48px] flex-row items-center gap-3 rounded border-stroke border-edge bg-surface px-3"
    >
      <View
        className={`h-[24px] w-[24px] items-center justify-center rounded border-stroke border-edge ${on ? 'bg-accent' : ''}`}
      >
        {on ? <Check size={18} color="var(--on-accent)" aria-hidden /> : null}
      </View>
      {children}
    </Pressable>
  );
}
