/** A position for the item at `index` of a list, between those of its neighbours; `positions` are in their new order. */
export function positionAt(positions: readonly number[], index: number): number {
  const before = positions[index - 1];
  const after = positions[index + 1];
  if (before === undefined) return (after ?? 1) - 1;
  return after === undefined ? before + 1 : (before + after) / 2;
}
