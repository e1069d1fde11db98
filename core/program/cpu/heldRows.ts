import { HELD_LINES, lineBytes, type HeldLine } from './rowCapacity';

/** Addresses of the lines of a row that is held. */
export interface HeldRow extends Record<HeldLine, number> {
  y: number;
}

/** Rows that enter a stencil, as many as its window is high, in the kernel's memory: each new one takes the place of the oldest. */
export class HeldRows {
  private readonly rows: HeldRow[];

  constructor(at: number, count: number, width: number) {
    const step = lineBytes(width);
    this.rows = Array.from({ length: count }, (_, row) => {
      const lines = HELD_LINES.map((name, i) => [name, at + (row * HELD_LINES.length + i) * step + 16]);
      return { ...(Object.fromEntries(lines) as Record<HeldLine, number>), y: -1 };
    });
  }

  /** The place of a row; its `y` says which row lies there now. */
  at(y: number): HeldRow {
    return this.rows[y % this.rows.length];
  }
}
