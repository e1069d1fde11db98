import { View } from 'react-native';

/** A stretch of a whole, from and to as shares of it. */
type Stretch = { from: number; to: number };

/** A bar of how much is done, 0–1. `stretches`: what of it is, where it is not done in order. */
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
