import { View } from 'react-native';
import { ASPECTS, type Aspect } from '@inkavo/core/model/delivery';
import { Choice } from '../ui/Choice';

const NONE = 'own';
/** Aspect ratios per row: a phone has room for five fields. */
const ROW = 4;

/** A choice among the aspect ratios for delivery, including the picture's own. */
export function ShapeChoice({
  value,
  own,
  onChange,
}: {
  value: Aspect | null;
  /** Name of the picture's own aspect ratio. */
  own: string;
  onChange(value: Aspect | null): void;
}) {
  const fields = ASPECTS.map((a) => ({ value: a, title: a }));
  const [usual, wide] = [fields.slice(0, ROW), fields.slice(ROW)];
  const among = (row: typeof fields): Aspect | null => row.find((f) => f.value === value)?.value ?? null;
  return (
    <View className="gap-1">
      <Choice
        label="Shape"
        value={value === null ? NONE : among(usual)}
        options={[{ value: NONE, title: own }, ...usual]}
        onChange={(v) => onChange(v === NONE ? null : v)}
      />
      <Choice label="Shape of a wide screen" value={among(wide)} options={wide} onChange={onChange} />
    </View>
  );
}
