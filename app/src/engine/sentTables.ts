import type { BakedOp, BakedTable } from '@inkavo/core/program/baked';

/**
 * Tables carry a content-unique number assigned when baked. Workers cache received tables, so that known ones are sent
 * as numbers only: the six tables of three regions take 26 MB, and copying them blocks the main thread.
 */
type Numbered = BakedTable['table'] & { number?: number };

const numberOf = (op: BakedOp): number | undefined => (op.kind === 'table' ? (op.table as Numbered).number : undefined);

const numbers = new WeakMap<object, number>();
let last = 0;

/** An op with a copy of its table, and the table's number. Bakers never modify a table that they have handed over. */
export function numberedCopy(op: BakedOp): BakedOp {
  if (op.kind !== 'table') return op;
  const number = numbers.get(op.table) ?? (last += 1);
  numbers.set(op.table, number);
  return { ...op, table: { ...op.table, data: op.table.data.slice(), number } as Numbered };
}

const NO_DATA = new Float32Array(0);
/**
 * Number of cached values, unless the latest ops have more: 32 MB, the tables of three regions at rest during a drag.
 */
const MOST_VALUES = 8e6;

/**
 * Least-recently-used cache of sent tables. Both ends of a worker's port keep one and see the same ops in the same
 * order, so that they evict the same tables.
 */
class Kept<T> {
  private readonly kept = new Map<number, { of: T; values: number }>();

  get = (number: number): T | undefined => this.kept.get(number)?.of;

  /** Registers ops that are sent or received. */
  note(ops: readonly BakedOp[], keep: (op: BakedTable) => T): void {
    const used = new Set<number>();
    for (const op of ops) {
      const number = numberOf(op);
      if (op.kind !== 'table' || number === undefined) continue;
      used.add(number);
      const { size } = op.table;
      const of = this.get(number) ?? keep(op);
      // Most recently used, evicted last.
      this.kept.delete(number);
      this.kept.set(number, { of, values: 4 * size ** 3 });
    }
    let values = [...this.kept.values()].reduce((sum, k) => sum + k.values, 0);
    for (const [number, k] of this.kept) {
      if (values <= MOST_VALUES) return;
      if (used.has(number)) continue;
      this.kept.delete(number);
      values -= k.values;
    }
  }
}

/** The sending end: packed ops must be sent, in order. */
export class TablesSent {
  private readonly kept = new Kept<true>();

  /** Ops for sending: known tables have no data. */
  pack(ops: readonly BakedOp[]): BakedOp[] {
    const packed = ops.map((op) => {
      const number = numberOf(op);
      const there = op.kind === 'table' && number !== undefined && this.kept.get(number);
      return there ? { ...op, table: { ...op.table, data: NO_DATA } } : op;
    });
    this.kept.note(ops, () => true);
    return packed;
  }
}

/** The receiving end. */
export class TablesReceived {
  private readonly kept = new Kept<Numbered>();

  /**
   * Restores ops packed by {@link TablesSent.pack}, with the same object for the same table; others are returned
   * unchanged. Throws a RangeError for a table that was never received.
   */
  unpack(packed: readonly BakedOp[]): BakedOp[] {
    const ops = packed.map((op) => {
      const number = numberOf(op);
      if (op.kind !== 'table' || number === undefined) return op;
      const table = this.kept.get(number) ?? op.table;
      if (table.data.length === 0) throw new RangeError('A table of this grade never came.');
      return { ...op, table };
    });
    this.kept.note(ops, (op) => op.table);
    return ops;
  }
}
