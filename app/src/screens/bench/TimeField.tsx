import { useState } from 'react';
import { View } from 'react-native';
import { tell } from '../../state/messages';
import { Field } from '../../ui/Field';
import { parseTime, timeText } from './timeText';

/** An editable time of a frame of the clip, clamped to `first` and `last`. */
export function TimeField({
  label,
  frame,
  rate,
  first = 0,
  last,
  onChange,
}: {
  label: string;
  frame: number;
  rate: number;
  first?: number;
  last: number;
  onChange(frame: number): void;
}) {
  const [text, setText] = useState<string | null>(null);
  const take = (): void => {
    if (text === null) return;
    setText(null);
    const to = parseTime(text, rate);
    if (to !== null) onChange(Math.min(last, Math.max(first, to)));
    else if (text.trim())
      tell({
        key: 'time',
        text: `“${text}” is no time: minutes:seconds.frames, such as ${timeText(frame, rate)}.`,
        fades: true,
      });
  };
  return (
    <View className="min-w-0 flex-1">
      <Field
        label={label}
        value={text ?? timeText(frame, rate)}
        onChange={setText}
        onBlur={take}
        onSubmitEditing={take}
        selectTextOnFocus
        maxLength={16}
      />
    </View>
  );
}
