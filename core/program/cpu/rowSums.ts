import type { SumRows } from '../../fields/smallPicture';
import { lineBytes, type RowExports } from './rowRoom';

/** Bytes of memory that {@link rowSums} takes for planes of this width. */
export const rowSumsBytes = (width: number): number => lineBytes(width);

/**
 * Adds rows of planes in a kernel's memory up, for `shrink`. `memory`: with {@link rowSumsBytes} to spare at `at`, a multiple
 * of 16, and 16 bytes behind every plane.
 */
export function rowSums(module: WebAssembly.Module, memory: WebAssembly.Memory, at: number): SumRows {
  const code = new WebAssembly.Instance(module, { env: { memory } }).exports as unknown as RowExports;
  return (plane, width, from, to) => {
    const bytes = plane.BYTES_PER_ELEMENT;
    code.sumRows(plane.byteOffset + from * width * bytes, bytes - 1, width, to - from, at);
    return new Int32Array(memory.buffer, at, width);
  };
}
