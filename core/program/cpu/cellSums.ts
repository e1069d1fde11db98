import type { SumCells } from '../../fields/smallPicture';
import { lineBytes, type RowExports } from './rowCapacity';

/** Bytes of memory that {@link cellSums} takes for planes of this width. */
export const cellSumsBytes = (width: number): number => lineBytes(width);

/**
 * Sums the cells of planes in a kernel's memory, for `downsample`. `memory`: with {@link cellSumsBytes} free at `at`, a
 * multiple of 16, and 16 bytes of padding after every plane.
 */
export function cellSums(module: WebAssembly.Module, memory: WebAssembly.Memory, at: number): SumCells {
  const code = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as RowExports;
  return (plane, width, from, to, across, columns) => {
    const bytes = plane.BYTES_PER_ELEMENT;
    code.sumRows(plane.byteOffset + from * width * bytes, bytes - 1, width, to - from, at);
    const samples = new Int32Array(memory.buffer, at, width);
    const sums = new Float64Array(columns);
    for (let x = 0, column = 0; column < columns; column += 1)
      for (const end = Math.min(width, (column + 1) * across); x < end; x += 1) sums[column] += samples[x];
    return sums;
  };
}
