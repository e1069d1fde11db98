import type { NoiseLevel } from '@inkavo/core/noise/level';
import { NoiseKernel, noiseKernelBytes, type NoiseFrame } from '@inkavo/core/noise/noiseKernel';
import { NOISE_REACH, noiseLevelOf, reduceNoise, takesNoise, type NoiseAmounts } from '@inkavo/core/noise/reduce';
import { fps } from '@inkavo/core/model/facts';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { PROBE } from '../codec/probe';
import { MediaError, run, SAFE_INPUT } from '../codec/run';
import { noiseModule } from '../kernelFile';
import { decodeFrames, type Source } from './rest';

/** Frames around a given one, all of one format. */
export interface Stack {
  format: PlanarFormat;
  /** Frames, concatenated. */
  frames: ArrayBuffer;
  /** Which of them come before, at and after the given one. */
  order: number[];
  /** Its index in that order. */
  at: number;
}

/** Denoises one of several frames. */
export interface NoiseTask extends Stack {
  kind: 'noise';
  amounts: NoiseAmounts;
}

/** The frame at `at` of a stack, as recorded. */
export const middleOf = ({ format, frames, order, at }: Stack): PlanarPicture =>
  planesOver(frames, format, order[at] * pictureBytes(format));

const picturesOf = ({ format, frames, order }: Stack): PlanarPicture[] =>
  order.map((k) => planesOver(frames, format, k * pictureBytes(format)));

/** A stack in the memory of a kernel, and the address of space for one more frame; undefined: no kernel supports it. */
function loaded(stack: Stack): { kernel: NoiseKernel; frames: NoiseFrame[]; to: number; all: Uint8Array } | undefined {
  const { format, frames, order } = stack;
  const module = noiseModule();
  if (!module || !takesNoise(format)) return undefined;
  const bytes = pictureBytes(format);
  const room = noiseKernelBytes(format);
  const step = Math.ceil(bytes / 64) * 64;
  const pages = Math.ceil((room + (order.length + 1) * step) / 65536);
  const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
  const all = new Uint8Array(memory.buffer);
  const placed = order.map((k, i) => {
    const address = room + i * step;
    all.set(new Uint8Array(frames, k * bytes, bytes), address);
    return { address, number: i };
  });
  return { kernel: new NoiseKernel(module, memory, format, 0), frames: placed, to: room + order.length * step, all };
}

/** Runs the task in the calling thread. */
export function reducedOf(task: NoiseTask): PlanarPicture {
  const { format, at, amounts } = task;
  const bytes = pictureBytes(format);
  const out = planesOver(new ArrayBuffer(bytes), format);
  const load = loaded(task);
  if (!load) {
    reduceNoise(picturesOf(task), at, amounts, out);
    return out;
  }
  load.kernel.reduce(load.frames, at, amounts, load.to);
  new Uint8Array(out.y.buffer).set(load.all.subarray(load.to, load.to + bytes));
  return out;
}

/** Number of frames on either side for measuring noise. */
const LEVEL_REACH = 1;

/** Input for measuring the noise of a frame. */
export const levelStack = (source: Source, frame: number, signal?: AbortSignal): Promise<Stack> =>
  stackAt(source, frame, signal, LEVEL_REACH);

/**
 * A frame close to a given one that is quick to decode with its neighbours: just after a position where decoding can
 * begin. Three frames from the middle of a 4K file took 2.6 s, with this 1.2.
 */
export async function quicklyDecoded({ path, facts }: Source, frame: number, signal?: AbortSignal): Promise<number> {
  const rate = fps(facts);
  const asked = facts.startSeconds + frame / rate;
  const told = await run(
    'ffprobe',
    [
      ...['-v', 'error', ...SAFE_INPUT, '-select_streams', 'V:0', '-read_intervals', `${asked.toFixed(6)}%+#1`],
      ...['-show_entries', 'packet=pts_time', '-of', 'csv=p=0', '-i', path],
    ],
    { signal, ...PROBE },
  );
  const begins = Number.parseFloat(told.toString());
  if (Number.isNaN(begins)) return frame;
  const first = Math.max(0, Math.round((begins - facts.startSeconds) * rate));
  return Math.max(0, Math.min(facts.frames - 1 - LEVEL_REACH, first + 1 + LEVEL_REACH));
}

/** The noise level of a stack's frame; null if it cannot be measured. */
export function levelOf(stack: Stack): NoiseLevel | null {
  const load = loaded(stack);
  return load ? load.kernel.level(load.frames, stack.at) : noiseLevelOf(picturesOf(stack), stack.at);
}

/**
 * A frame of the clip's timeline and its neighbours, at full size and in the file's own format. Rejects with a {@link
 * MediaError}.
 */
export async function stackAt(
  source: Source,
  frame: number,
  signal?: AbortSignal,
  reach = NOISE_REACH,
): Promise<Stack> {
  const last = source.facts.frames - 1;
  const [first, end] = [Math.max(0, frame - reach), Math.min(last, frame + reach)];
  const wanted = Array.from({ length: Math.max(1, end - first + 1) }, (_, k) => first + k);
  const { format, frames, order } = await decodeFrames(source, wanted, signal);
  // A damaged file may end early.
  const there = order.filter((k) => (k + 1) * pictureBytes(format) <= frames.byteLength);
  const at = frame - first;
  if (there.length <= at) throw new MediaError('This frame cannot be decoded: the file is damaged here.');
  return { format, frames, order: there, at };
}

/** Input for denoising a frame with its neighbours, as an export does. */
export const noiseTask = async (
  source: Source,
  frame: number,
  amounts: NoiseAmounts,
  signal?: AbortSignal,
): Promise<NoiseTask> => ({ kind: 'noise', amounts, ...(await stackAt(source, frame, signal)) });
