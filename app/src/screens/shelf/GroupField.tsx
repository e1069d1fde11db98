import { View } from 'react-native';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';

/** The group of an item: typed, or an existing one. */
export function GroupField({
  value,
  groups,
  onChange,
}: {
  value: string;
  groups: readonly string[];
  onChange(group: string): void;
}) {
  const others = groups.filter((g) => g !== value);
  return (
    <View className="gap-2">
      <Field label="Group" value={value} onChange={onChange} maxLength={60} />
      {others.length ? (
        <View className="flex-row flex-wrap gap-2">
          {others.map((g) => (
            <Button key={g} title={g} onPress={() => onChange(g)} />
          ))}
        </View>
      ) : null}
    </View>
  );
}
