import type { BakedOp, BakedTable } from '@inkavo/core/program/baked';

/**
 * Tables have a number that no other content has, given where they are baked. A worker keeps those that it was sent, so that one it
 * has is sent as its number: the six tables of three regions are 26 MB, and copying them holds up the page.
 */
type Numbered = BakedTable['table'] & { number?: number };

const numberOf = (op: BakedOp): number | undefined => (op.kind === 'table' ? (op.table as Numbered).number : undefined);

const numbers = new WeakMap<object, number>();
let last = 0;

/** An op with a copy of its table, and the table's number. Whoever bakes never changes a table that it has handed over. */
export function numberedCopy(op: BakedOp): BakedOp {
  if (op.kind !== 'table') return op;
  const number = numbers.get(op.table) ?? (last += 1);
  numbers.set(op.table, number);
  return { ...op, table: { ...op.table, data: op.table.data.slice(), number } as Numbered };
}

const NO_DATA = new Float32Array(0);
/** Values that are kept, unless the ops that came last have more: 32 MB, the tables of three regions at rest while a finger is down. */
const MOST_VALUES = 8e6;

/**
 * What was sent, oldest use first. Both ends of a worker's port keep one and hear of the same ops in the same order, so that they
 * forget the same.
 */
class Kept<T> {
  private readonly kept = new Map<number, { of: T; values: number }>();

  get = (number: number): T | undefined => this.kept.get(number)?.of;

  /** Takes note of ops that are sent, or have come. */
  note(ops: readonly BakedOp[], keep: (op: BakedTable) => T): void {
    const used = new Set<number>();
    for (const op of ops) {
      const number = numberOf(op);
      if (op.kind !== 'table' || number === undefined) continue;
      used.add(number);
      const { size } = op.table;
      const of = this.get(number) ?? keep(op);
      // Used last, it is forgotten last.
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

/** The end that sends: what it gives has to be sent, in the same order. */
export class TablesSent {
  private readonly kept = new Kept<true>();

  /** Ops as they are sent: a table that is there has no data. */
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

/** The end that receives. */
export class TablesReceived {
  private readonly kept = new Kept<Numbered>();

  /**
   * Ops as they were before {@link TablesSent.pack}, with the same object for the same table; others as they are. Throws a RangeError
   * for a table that never came.
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
