/** A sort key right after one in a sorted list. */
export function positionBehind(positions: readonly number[], position: number): number {
  const next = positions.find((p) => p > position);
  return next === undefined ? position + 1 : (position + next) / 2;
}

/** A sort key for the item at `index` of a list, between those of its neighbours; `positions` are in the new order. */
export function positionAt(positions: readonly number[], index: number): number {
  const before = positions[index - 1];
  const after = positions[index + 1];
  if (before === undefined) return (after ?? 1) - 1;
  return after === undefined ? before + 1 : (before + after) / 2;
}

/** Properties that decide a new clip's place in an outing. */
export interface Placed {
  name: string;
  /** ISO 8601; null where neither file nor name states it. */
  recordedAt: string | null;
}

const byName = new Intl.Collator('en', { numeric: true });

/** Whether a clip belongs after another: by recording time where both have one, else by name. */
const isLater = (a: Placed, b: Placed): boolean => {
  const [left, right] = [a, b].map(({ recordedAt }) => (recordedAt === null ? NaN : Date.parse(recordedAt)));
  const apart = left - right;
  return Number.isNaN(apart) || apart === 0 ? byName.compare(a.name, b.name) > 0 : apart > 0;
};

/**
 * A sort key for a new clip: before those at the end of the list that were recorded later. An order arranged by hand is
 * preserved. `list`: sorted by position.
 */
export function positionAmong(list: readonly (Placed & { position: number })[], clip: Placed): number {
  let index = list.length;
  while (index > 0 && isLater(list[index - 1], clip)) index -= 1;
  const positions = list.map(({ position }) => position);
  return positionAt([...positions.slice(0, index), NaN, ...positions.slice(index)], index);
}
