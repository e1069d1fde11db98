import type { ReactNode } from 'react';
import { TextInput, View, type TextInputProps } from 'react-native';
import { Txt } from './Txt';

interface Props extends Omit<TextInputProps, 'onChange' | 'className'> {
  label: string;
  value: string;
  onChange(text: string): void;
}

function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    <View className="gap-1">
      <Txt size="sm" quiet>
        {label}
      </Txt>
      {children}
    </View>
  );
}

const BOX = 'h-[48px] rounded border-stroke border-edge bg-surface px-3 font-sans text-base text-ink';

/** A text field with its label above. */
export function Field({ label, value, onChange, ...rest }: Props) {
  return (
    <Labelled label={label}>
      <TextInput value={value} onChangeText={onChange} aria-label={label} maxLength={120} className={BOX} {...rest} />
    </Labelled>
  );
}

/** A date field with the browser's own calendar; YYYY-MM-DD, or empty. */
export function DayField({ label, value, onChange }: Pick<Props, 'label' | 'value' | 'onChange'>) {
  return (
    <Labelled label={label}>
      <input
        type="date"
        aria-label={label}
        value={value}
        onChange={(e) => onChange(e.target.value)}
        className={`box-border w-full border-solid ${BOX}`}
      />
    </Labelled>
  );
}
