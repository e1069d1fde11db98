import { BUFFERED_LINES, lineBytes, type BufferedLine } from './rowCapacity';

/** Addresses of the lines of a buffered row. */
export interface BufferedRow extends Record<BufferedLine, number> {
  y: number;
}

/** Ring buffer, in the kernel's memory, of the rows that enter a stencil: as many as its window is high. */
export class RowBuffer {
  private readonly rows: BufferedRow[];

  constructor(at: number, count: number, width: number) {
    const step = lineBytes(width);
    this.rows = Array.from({ length: count }, (_, row) => {
      const lines = BUFFERED_LINES.map((name, i) => [name, at + (row * BUFFERED_LINES.length + i) * step + 16]);
      return { ...(Object.fromEntries(lines) as Record<BufferedLine, number>), y: -1 };
    });
  }

  /** The slot of a row; its `y` says which row it currently holds. */
  at(y: number): BufferedRow {
    return this.rows[y % this.rows.length];
  }
}
