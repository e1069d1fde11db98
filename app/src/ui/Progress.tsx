import { View } from 'react-native';

/** A bar of how much is done, 0–1. */
export function Progress({ label, value }: { label: string; value: number }) {
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
      <View className="h-2 bg-in-hand" style={{ width: `${percent}%` }} />
    </View>
  );
}
