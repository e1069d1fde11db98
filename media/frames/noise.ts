import { NoiseKernel, noiseKernelBytes } from '@inkavo/core/noise/noiseKernel';
import { NOISE_REACH, reduceNoise, takesNoise, type NoiseAmounts } from '@inkavo/core/noise/reduce';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { MediaError } from '../codec/run';
import { noiseModule } from '../kernelFile';
import { decodeFrames, type Source } from './rest';

/** Reduces the noise of one of some frames, all of one format. */
export interface NoiseTask {
  kind: 'noise';
  format: PlanarFormat;
  /** Frames one after the other. */
  frames: ArrayBuffer;
  /** Which of them come before, at and after the one that is wanted. */
  order: number[];
  /** Its place in the order. */
  at: number;
  amounts: NoiseAmounts;
}

/** Does the task in the thread that calls it. */
export function reducedOf({ format, frames, order, at, amounts }: NoiseTask): PlanarPicture {
  const bytes = pictureBytes(format);
  const module = noiseModule();
  const pictures = order.map((k) => planesOver(frames, format, k * bytes));
  const out = planesOver(new ArrayBuffer(bytes), format);
  if (!module || !takesNoise(format)) {
    reduceNoise(pictures, at, amounts, out);
    return out;
  }
  const room = noiseKernelBytes(format);
  const step = Math.ceil(bytes / 64) * 64;
  const pages = Math.ceil((room + (order.length + 1) * step) / 65536);
  const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
  const all = new Uint8Array(memory.buffer);
  const stack = order.map((k, i) => {
    const address = room + i * step;
    all.set(new Uint8Array(frames, k * bytes, bytes), address);
    return { address, number: i };
  });
  const to = room + order.length * step;
  new NoiseKernel(module, memory, format, 0).reduce(stack, at, amounts, to);
  new Uint8Array(out.y.buffer).set(all.subarray(to, to + bytes));
  return out;
}

/**
 * What it takes to reduce the noise of a frame of the clip's timeline by the frames around it, as an export does: a frame at
 * its full size and in the file's own format comes of it. Rejects with a {@link MediaError}.
 */
export async function noiseTask(
  source: Source,
  frame: number,
  amounts: NoiseAmounts,
  signal?: AbortSignal,
): Promise<NoiseTask> {
  const last = source.facts.frames - 1;
  const [first, end] = [Math.max(0, frame - NOISE_REACH), Math.min(last, frame + NOISE_REACH)];
  const wanted = Array.from({ length: Math.max(1, end - first + 1) }, (_, k) => first + k);
  const { format, frames, order } = await decodeFrames(source, wanted, signal);
  // A damaged file may end early.
  const there = order.filter((k) => (k + 1) * pictureBytes(format) <= frames.byteLength);
  const at = frame - first;
  if (there.length <= at) throw new MediaError('This frame cannot be decoded: the file is damaged here.');
  return { kind: 'noise', format, frames, order: there, at, amounts };
}
