/** A position right behind one of a list, which is in order. */
export function positionBehind(positions: readonly number[], position: number): number {
  const next = positions.find((p) => p > position);
  return next === undefined ? position + 1 : (position + next) / 2;
}

/** A position for the item at `index` of a list, between those of its neighbours; `positions` are in their new order. */
export function positionAt(positions: readonly number[], index: number): number {
  const before = positions[index - 1];
  const after = positions[index + 1];
  if (before === undefined) return (after ?? 1) - 1;
  return after === undefined ? before + 1 : (before + after) / 2;
}

/** What the place of a clip goes by when it comes into an outing. */
export interface Placed {
  name: string;
  /** ISO 8601; null where neither file nor name tell. */
  recordedAt: string | null;
}

const byName = new Intl.Collator('en', { numeric: true });

/** Whether a clip belongs behind another one: by their times of recording where both have one, else by their names. */
const isLater = (a: Placed, b: Placed): boolean => {
  const [left, right] = [a, b].map(({ recordedAt }) => (recordedAt === null ? NaN : Date.parse(recordedAt)));
  const apart = left - right;
  return Number.isNaN(apart) || apart === 0 ? byName.compare(a.name, b.name) > 0 : apart > 0;
};

/**
 * A position for a clip that comes into a list: before those at its end that were recorded later. An order that was made
 * by hand stays as it is. `list`: in order of their positions.
 */
export function positionAmong(list: readonly (Placed & { position: number })[], clip: Placed): number {
  let index = list.length;
  while (index > 0 && isLater(list[index - 1], clip)) index -= 1;
  const positions = list.map(({ position }) => position);
  return positionAt([...positions.slice(0, index), NaN, ...positions.slice(index)], index);
}
