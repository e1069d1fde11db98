import { useEffect, useRef, useState } from 'react';
import { Pressable, TextInput, View } from 'react-native';
import { editableNumber, formatNumber, parseNumber, toStored } from '@inkavo/core/steps/numbers';
import type { NumberSpec } from '@inkavo/core/steps';
import { Button } from '../ui/Button';
import { Sheet } from '../ui/Sheet';
import { Txt } from '../ui/Txt';
import { Delete } from '../ui/icons';

const ROWS = [
  ['7', '8', '9'],
  ['4', '5', '6'],
  ['1', '2', '3'],
  ['±', '0', '.'],
];

const FOCUS_MS = 40;

/** Number input: large keys for a thumb, and a physical keyboard. */
export function Keypad({
  spec,
  value,
  onSet,
  onClose,
}: {
  spec: NumberSpec;
  value: number;
  onSet(value: number): void;
  onClose(): void;
}) {
  const [text, setText] = useState(editableNumber(spec, value));
  // The first key replaces the current text, as in a field with selected text.
  const [fresh, setFresh] = useState(true);
  const input = useRef<TextInput>(null);
  // Over another sheet focus moves to this one after a moment, to its first control.
  useEffect(() => {
    const timer = setTimeout(() => input.current?.focus(), FOCUS_MS);
    return () => clearTimeout(timer);
  }, []);
  const parsed = parseNumber(spec, text);
  const typed = Number(text.replace(',', '.'));
  const stored = toStored(spec, typed);
  const held = parsed !== undefined && Math.abs(parsed - stored) > 1e-9;
  const press = (key: string): void => {
    if (key === '±') setText((t) => (t.startsWith('-') ? t.slice(1) : `-${t}`));
    else setText((t) => (fresh ? key : t + key));
    setFresh(false);
  };
  const set = (): void => {
    if (parsed !== undefined) onSet(parsed);
  };
  const limits = `${formatNumber(spec, spec.min)} to ${formatNumber(spec, spec.max)}`;
  return (
    <Sheet title={spec.label} onClose={onClose}>
      <TextInput
        ref={input}
        value={text}
        onChangeText={(t) => {
          setText(t);
          setFresh(false);
        }}
        onSubmitEditing={set}
        autoFocus
        selectTextOnFocus
        inputMode="none"
        aria-label={spec.label}
        className="h-[52px] rounded border-stroke border-edge bg-surface px-3 text-right font-bold text-xl text-ink"
      />
      <Txt size="sm" quiet>
        {parsed === undefined
          ? 'Type a number.'
          : held
            ? `The limit is ${limits}: it will be ${formatNumber(spec, parsed)}.`
            : `${limits}. Neutral is ${formatNumber(spec, spec.neutral)}.`}
      </Txt>
      <View className="gap-2">
        {ROWS.map((row) => (
          <View key={row.join('')} className="flex-row gap-2">
            {row.map((key) => (
              <Pressable
                key={key}
                role="button"
                aria-label={key === '±' ? 'Change the sign' : key}
                onPress={() => press(key)}
                className="h-[52px] flex-1 items-center justify-center rounded bg-raised active:opacity-60"
              >
                <Txt size="lg">{key}</Txt>
              </Pressable>
            ))}
          </View>
        ))}
      </View>
      <View className="flex-row gap-2">
        <Button title="Erase" icon={Delete} className="flex-1" onPress={() => setText((t) => t.slice(0, -1))} />
        <Button title={`Neutral`} className="flex-1" onPress={() => onSet(spec.neutral)} />
        <Button title="Set" look="strong" className="flex-1" disabled={parsed === undefined} onPress={set} />
      </View>
    </Sheet>
  );
}
