import { View } from 'react-native';

/** A range of a whole, in shares of it. */
type Stretch = { from: number; to: number };

/** A progress bar, 0–1. `stretches`: finished ranges, if work is not done in order. */
export function Progress({ label, value, stretches }: { label: string; value: number; stretches?: Stretch[] }) {
  const percent = Math.round(value * 100);
  return (
    <View
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={percent}
      className="h-2 overflow-hidden rounded bg-raised"
    >
      {(stretches ?? [{ from: 0, to: value }]).map(({ from, to }) => (
        <View
          key={from}
          className="absolute h-2 bg-in-hand"
          style={{ left: `${100 * from}%`, width: `${100 * (to - from)}%` }}
        />
      ))}
    </View>
  );
}
