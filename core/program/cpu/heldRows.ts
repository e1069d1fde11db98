import { HELD_LINES, lineBytes, type HeldLine } from './rowCapacity';

/** Addresses of the lines of a buffered row. */
export interface HeldRow extends Record<HeldLine, number> {
  y: number;
}

/** Ring buffer, in the kernel's memory, of the rows that enter a stencil: as many as its window is high. */
export class HeldRows {
  private readonly rows: HeldRow[];

  constructor(at: number, count: number, width: number) {
    const step = lineBytes(width);
    this.rows = Array.from({ length: count }, (_, row) => {
      const lines = HELD_LINES.map((name, i) => [name, at + (row * HELD_LINES.length + i) * step + 16]);
      return { ...(Object.fromEntries(lines) as Record<HeldLine, number>), y: -1 };
    });
  }

  /** The slot of a row; its `y` says which row it currently holds. */
  at(y: number): HeldRow {
    return this.rows[y % this.rows.length];
  }
}
