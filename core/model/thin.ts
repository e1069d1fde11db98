/**
 * The keys that are needed: without the others every value stays within its limit (Douglas, Peucker 1973). `off` says how many
 * times its limit a key is off from what lies there between two others.
 */
export function thin<K>(keys: readonly K[], off: (from: K, to: K, key: K) => number): K[] {
  if (keys.length < 3) return [...keys];
  const keep = new Set([0, keys.length - 1]);
  const split = (from: number, to: number): void => {
    let [worst, at] = [1, -1];
    for (let i = from + 1; i < to; i += 1) {
      const v = off(keys[from], keys[to], keys[i]);
      if (v > worst) [worst, at] = [v, i];
    }
    if (at < 0) return;
    keep.add(at);
    split(from, at);
    split(at, to);
  };
  split(0, keys.length - 1);
  return keys.filter((_, i) => keep.has(i));
}
