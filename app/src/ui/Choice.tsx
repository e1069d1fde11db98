import type { KeyboardEvent } from 'react';
import { Pressable, View } from 'react-native';
import type { Mark } from '@inkavo/core/scopes/readings';
import { MarkIcon } from '../instruments/marks';
import { chooseByKey } from './roving';
import { Txt } from './Txt';

interface Option<V extends string> {
  value: V;
  title: string;
  note?: string;
  /** Full name, if the title is an abbreviation. */
  label?: string;
  /** Shown instead of the title. */
  mark?: Mark;
}

/** Tab stop and keyboard handling of the i-th option. Without a selection the first one has the tab stop. */
function keysOf<V extends string>(
  options: readonly Option<V>[],
  i: number,
  value: V | null,
  onChange: (value: V) => void,
): { tabIndex: 0 | -1; onKeyDown(event: KeyboardEvent): void } {
  const at = Math.max(
    0,
    options.findIndex((o) => o.value === value),
  );
  return {
    tabIndex: i === at ? 0 : -1,
    onKeyDown: (event) =>
      chooseByKey(
        event,
        options.map((o) => o.value),
        i,
        onChange,
      ),
  };
}

/** A radio group as a row of equal fields. */
export function Choice<V extends string>({
  label,
  value,
  options,
  onChange,
  compact,
}: {
  label: string;
  /** Null: none of these. */
  value: V | null;
  options: readonly Option<V>[];
  onChange: (value: V) => void;
  compact?: boolean;
}) {
  return (
    <View role="radiogroup" aria-label={label} className="flex-row overflow-hidden rounded border-stroke border-edge">
      {options.map((o, i) => {
        const on = o.value === value;
        return (
          <Pressable
            key={o.value}
            role="radio"
            aria-checked={on}
            aria-label={o.label ?? (o.mark ? o.title : undefined)}
            onPress={() => onChange(o.value)}
            {...keysOf(options, i, value, onChange)}
            className={`min-h-[44px] min-w-[44px] flex-auto items-center justify-center px-1 ${i ? 'border-l-stroke border-edge' : ''} ${on ? 'bg-accent' : 'bg-surface'}`}
          >
            {o.mark ? (
              <MarkIcon mark={o.mark} colour={on ? 'var(--on-accent)' : 'var(--ink)'} size={18} />
            ) : (
              <Txt size={compact ? 'sm' : 'base'} bold={on} ink={on ? 'text-on-accent' : 'text-ink'} numberOfLines={1}>
                {o.title}
              </Txt>
            )}
          </Pressable>
        );
      })}
    </View>
  );
}

/** A radio group as a column, each option with a note. */
export function ChoiceList<V extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  /** Null: none is selected yet. */
  value: V | null;
  options: readonly Option<V>[];
  onChange: (value: V) => void;
}) {
  return (
    <View role="radiogroup" aria-label={label} className="gap-2">
      {options.map((o, i) => {
        const on = o.value === value;
        return (
          <Pressable
            key={o.value}
            role="radio"
            aria-checked={on}
            onPress={() => onChange(o.value)}
            {...keysOf(options, i, value, onChange)}
            className={`min-h-[48px] flex-row items-center justify-between gap-3 rounded border-stroke px-3 py-1 ${on ? 'border-accent bg-accent' : 'border-edge bg-surface'}`}
          >
            <Txt bold={on} ink={on ? 'text-on-accent' : 'text-ink'} className="max-w-[60%] shrink-0">
              {o.title}
            </Txt>
            {o.note ? (
              <Txt size="sm" className="shrink" ink={on ? 'text-on-accent' : 'text-quiet'}>
                {o.note}
              </Txt>
            ) : null}
          </Pressable>
        );
      })}
    </View>
  );
}
