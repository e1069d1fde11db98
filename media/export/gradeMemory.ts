import { cellSumsBytes } from '@inkavo/core/program/cpu/cellSums';
import { fixedKernelBytes } from '@inkavo/core/program/cpu/fixedKernel';
import { kernelScratchBytes, kernelTableBytes, kernelTakes } from '@inkavo/core/program/cpu/kernel';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { rowKernelBytes } from '@inkavo/core/program/cpu/rowCapacity';
import type { ExportBackend } from './thread';

/** Layout of a grading thread's own part of the memory: byte offsets from its start, and its size. */
export interface GradeMemory {
  /** The kernel's working memory: after the table, or after the code that sums cells. */
  kernel: number;
  /** The kernel for 16-bit lanes; undefined: it does not support these formats. */
  fixed?: number;
  bytes: number;
}

const aligned = (bytes: number): number => 64 * Math.ceil(bytes / 64);

export function gradeMemory(
  backend: ExportBackend,
  input: PlanarFormat,
  output: PlanarFormat,
  size: number,
): GradeMemory {
  if (backend.name !== 'rows') {
    const kernel = aligned(kernelTableBytes(size));
    return { kernel, bytes: kernel + kernelScratchBytes(input.width) };
  }
  const kernel = aligned(cellSumsBytes(input.width));
  const fixed = kernel + aligned(rowKernelBytes(backend.capacity));
  return kernelTakes(input, output, size)
    ? { kernel, fixed, bytes: fixed + fixedKernelBytes(backend.capacity) }
    : { kernel, bytes: fixed };
}
