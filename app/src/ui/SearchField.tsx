import { TextInput, View } from 'react-native';
import { IconButton } from './Button';
import { Search, X } from './icons';

interface Props {
  label: string;
  /** What can be searched. */
  hint: string;
  value: string;
  onChange(search: string): void;
}

/** A search field. */
export function SearchField({ label, hint, value, onChange }: Props) {
  return (
    <View className="h-[44px] min-w-0 flex-1 flex-row items-center rounded border-stroke border-edge bg-surface pl-3">
      <Search size={18} color="var(--quiet)" aria-hidden />
      <TextInput
        value={value}
        onChangeText={onChange}
        aria-label={label}
        placeholder={hint}
        placeholderTextColor="var(--quiet)"
        className="h-full min-w-0 flex-1 px-2 font-sans text-base text-ink"
      />
      {value ? <IconButton label="Search for nothing" icon={X} onPress={() => onChange('')} /> : null}
    </View>
  );
}
