/**
 * Simplifies keys so that every value stays within its tolerance (Douglas, Peucker 1973). `off` returns how far a key
 * deviates from the line between two others, as a multiple of its tolerance.
 */
export function simplify<K>(keys: readonly K[], off: (from: K, to: K, key: K) => number): K[] {
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
