import { Pressable, View } from 'react-native';
import { ChevronDown } from './icons';
import { Txt } from './Txt';

/** A field that shows the selection and opens a sheet to change it. */
export function OpenerField({
  title,
  value,
  label,
  onPress,
}: {
  /** Hidden if there is no room: then for screen readers only. */
  title?: string;
  value: string;
  label?: string;
  onPress(): void;
}) {
  return (
    <Pressable
      role="button"
      aria-label={label ?? `${title}: ${value}. Change it`}
      onPress={onPress}
      className="min-h-[44px] flex-row items-center justify-between gap-3 rounded border-stroke border-edge bg-surface px-3"
    >
      {title ? <Txt quiet>{title}</Txt> : null}
      <View className="min-w-0 flex-row items-center gap-2">
        <Txt bold numberOfLines={1} className="shrink">
          {value}
        </Txt>
        <ChevronDown size={18} color="var(--ink)" aria-hidden />
      </View>
    </Pressable>
  );
}
