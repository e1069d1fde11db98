import { mkdirSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fps } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import { deliveredRetime, deliverySchema, type DeliveryRequest } from '@inkavo/core/model/delivery';
import { deliveredFrames, type Retime } from '@inkavo/core/model/retime';
import { actsAt, numbersChange } from '@inkavo/core/program/compile';
import { colourProblem, deliveredColour, type DeliveredColour } from '@inkavo/core/program/deliver';
import { noiseKernelBytes } from '@inkavo/core/noise/noiseKernel';
import { NOISE_REACH, takesNoise } from '@inkavo/core/noise/reduce';
import { asksSource } from '@inkavo/core/program/source';
import { isOneTable, maxOps } from '@inkavo/core/program/plan';
import { kernelTakes } from '@inkavo/core/program/cpu/kernel';
import { pictureBytes, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { filterArgs } from '../codec/conform';
import { decodedPixelFormat, planarFormatOf } from '../codec/formats';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { MediaError, QUIET, SAFE_INPUT } from '../codec/run';
import { decodingFrom, evenFilter, originalIndex, type Source } from '../frames/rest';
import { deliveredFormat, encoderArgs } from './delivery';
import { unitFor } from './encoders';
import type { HardwareEncoder } from './hardwareEncoders';
import { kernelModule, noiseModule } from '../kernelFile';
import { makePipe, startCodec, startThread, supervise, type Part } from './parts';
import { gradeMemory } from './gradeMemory';
import { allocateRing, mostThreads, Ring } from './ring';
import type { ExportBackend, ThreadTask } from './thread';
import { threadProgram } from '../threads/path';

export interface ExportOptions {
  source: Source;
  steps: Step[];
  /** Text of the tables that steps use, by id. */
  luts?: Record<string, string>;
  delivery: DeliveryRequest;
  /** First and last delivered frame of the clip's timeline, inclusive. */
  inFrame: number;
  outFrame: number;
  /** Retiming; omitted: as recorded. */
  retime?: Retime;
  /** The finished file. It appears only when complete; until then it is `${output}.part`. */
  output: string;
  /** Process frames even without steps, and deliver them as BT.709 in limited range. */
  alwaysGraded?: boolean;
  /** Number of grading threads; omitted: as many as the backend needs. */
  threads?: number;
  /** Use the plain backend, as if the kernel had not been built. */
  plain?: boolean;
  /** Folder for pipes, created if missing. Default: the system's temporary folder. */
  work?: string;
  /** Path of the threads' program; default: {@link threadProgram}. */
  program?: string;
  onProgress?: (framesDone: number, frames: number) => void;
  signal?: AbortSignal;
}

/** A consumer that reads graded frames from a named pipe; its encoder settings. */
export interface Graded {
  format: PlanarFormat;
  /** False: frames are passed as recorded, with the file's own tags. */
  graded: boolean;
  as: DeliveredColour['as'];
  pipe: string;
}
export type Taker = (graded: Graded) => Part;

/** Grading threads; with one table, a single thread of the kernel is faster than the codec. */
const MANY = 2;
const MOST = 8;
/** Nodes per edge of an export's table; while numbers change over the clip, each frame gets its own table. */
const TABLE_SIZE = 65;
const TIMED_TABLE_SIZE = 33;

/** Compiles the kernel in advance for the first export. */
export const warmExports = (): void => void kernelModule();

/**
 * Exports a graded clip. Frames pass from the decoder to the encoder as planar Y'CbCr through shared memory: one thread
 * reads the decoder's pipe, others grade, one writes the encoder's pipe. Resolves with the number of frames. Throws a
 * {@link MediaError} and leaves no file.
 */
export async function exportClip(options: ExportOptions): Promise<number> {
  const { source, inFrame, outFrame } = options;
  const delivery = deliverySchema.parse(options.delivery);
  const part = `${options.output}.part`;
  const frameSeconds = 1 / fps(source.facts);
  try {
    const graded = outFrame - inFrame + 1;
    const delivered = deliveredFrames(source.facts, graded, deliveredRetime(options.retime, delivery));
    // Encoders buffer frames, many at the end: progress is what they have written.
    let encoded = 0;
    const unit = await unitFor(delivery);
    const onProgress = (done: number, all: number): void =>
      options.onProgress?.(Math.min(done, Math.round((encoded / delivered) * all)), all);
    const make = (by: HardwareEncoder | undefined): Promise<number> =>
      gradeInto({ ...options, onProgress }, (made) =>
        startCodec(
          'encoder',
          [
            ...[...QUIET, '-progress', 'pipe:1', '-stats_period', '0.25', '-y'],
            ...encoderArgs({
              ...made,
              facts: source.facts,
              delivery,
              unit: by,
              output: part,
              original: source.path,
              startSeconds: inFrame * frameSeconds,
              lengthSeconds: graded * frameSeconds,
              retime: options.retime,
            }),
          ],
          (output) =>
            output.on('data', (chunk: Buffer) => {
              const told = [...chunk.toString().matchAll(/^frame=\s*(\d+)/gm)].at(-1);
              if (told) encoded = Number(told[1]);
            }),
        ),
      );
    // Hardware encoders reject some sizes, and more than a few sessions at once: fall back to the CPU.
    const frames = await make(unit).catch((error: unknown) => {
      if (!unit || encoded > 0 || options.signal?.aborted) throw error;
      return make(undefined);
    });
    options.onProgress?.(frames, graded);
    renameSync(part, options.output);
    return frames;
  } finally {
    rmSync(part, { force: true });
  }
}

/** Grades frames of a clip into a consumer. Resolves with their number. Throws a {@link MediaError}. */
export async function gradeInto(options: Omit<ExportOptions, 'output'>, take: Taker): Promise<number> {
  const temporary = options.work ?? tmpdir();
  mkdirSync(temporary, { recursive: true });
  const work = mkdtempSync(join(temporary, 'inkavo-export-'));
  try {
    return await runPipeline(options, work, take);
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

async function runPipeline(options: Omit<ExportOptions, 'output'>, work: string, take: Taker): Promise<number> {
  const { source, inFrame, outFrame, signal } = options;
  const delivery = deliverySchema.parse(options.delivery);
  const { facts } = source;
  const problem = colourProblem(facts, delivery);
  if (problem) throw new MediaError(problem);
  const { steps, as } = deliveredColour(options.steps, delivery);
  const frameSeconds = 1 / fps(facts);
  const expected = outFrame - inFrame + 1;
  const timed = numbersChange(steps);
  const size = timed ? TIMED_TABLE_SIZE : TABLE_SIZE;
  const graded = options.alwaysGraded || timed || actsAt(steps, inFrame * frameSeconds);
  const output = deliveredFormat(facts, delivery, graded, as);
  // Without steps the decoder outputs what the encoder accepts: code values, including super-whites, stay unchanged.
  const input = graded ? planarFormatOf(facts) : output;
  const backend = backendFor(steps, input, output, size, options.plain);
  const noisy = asksSource(steps) && takesNoise(input);
  const few = backend.name === 'kernel' ? 1 : MANY;
  // Noise reduction is slower than any codec.
  const wanted = options.threads ?? (noisy ? Math.max(few, Math.min(MOST, availableParallelism())) : few);
  const delivered = { lead: 0, count: expected, reach: noisy ? NOISE_REACH : 0 };
  delivered.lead = Math.min(delivered.reach, inFrame);
  const tail = Math.min(delivered.reach, Math.max(0, facts.frames - 1 - outFrame));
  const { bytes: gradeBytes } = gradeMemory(backend, input, output, size);
  const noise = noisy
    ? { module: options.plain ? null : noiseModule(), offset: 64 * Math.ceil(gradeBytes / 64) }
    : undefined;
  const sizes = {
    inputBytes: pictureBytes(input),
    outputBytes: pictureBytes(output),
    ownBytes: noise ? noise.offset + pictureBytes(input) + 64 + noiseKernelBytes(input) : gradeBytes,
  };
  const threadCount = Math.min(wanted, mostThreads(delivered, sizes));
  if (threadCount < 1) throw new MediaError('These pictures are too large for what their steps need of memory.');
  const memory = allocateRing(delivered, sizes, threadCount);
  const ring = new Ring(memory);

  const [from, to] = await Promise.all([makePipe(join(work, 'decoded')), makePipe(join(work, 'graded'))]);
  if (signal?.aborted) throw new MediaError('Stopped.');
  const startSeconds = inFrame * frameSeconds;
  const first = inFrame - delivered.lead;
  const { seek, filters } = decodingFrom(source, originalIndex(source, first));
  const even = facts.variableRate ? [evenFilter(source, first)] : [];
  const decoder = startCodec('decoder', [
    ...QUIET,
    ...DECODE_LIMITS,
    ...SAFE_INPUT,
    '-y',
    ...seek,
    '-i',
    source.path,
    '-map',
    `0:${PICTURES}`,
    ...filterArgs([...filters, ...even]),
    ...(facts.variableRate ? [] : ['-fps_mode', 'passthrough']),
    '-frames:v',
    String(delivered.lead + expected + tail),
    '-pix_fmt',
    decodedPixelFormat(input),
    '-f',
    'rawvideo',
    from,
  ]);
  const encoder = take({ format: output, graded, as, pipe: to });
  const program = options.program ?? threadProgram('export');
  const thread = (task: ThreadTask): Part => startThread(program, task);
  const grading = Array.from({ length: threadCount }, (_, first) =>
    thread({
      role: 'grade',
      ring: memory,
      first,
      every: threadCount,
      backend,
      noise,
      graded,
      size,
      steps,
      luts: options.luts ?? {},
      input,
      output,
      startSeconds,
      frameSeconds,
    }),
  );
  const reader = thread({ role: 'read', ring: memory, pipe: from, bytes: pictureBytes(input) });
  const writer = thread({ role: 'write', ring: memory, pipe: to, bytes: pictureBytes(output) });

  const timer = setInterval(() => options.onProgress?.(ring.written, expected), 200);
  try {
    await supervise(ring, { decoder, encoder, reader, writer, grading, from, to }, signal);
    if (ring.written === 0) throw new MediaError('No frame of this file could be decoded.');
    options.onProgress?.(ring.written, expected);
    return ring.written;
  } finally {
    clearInterval(timer);
  }
}

/** The fastest backend that supports these formats and steps. */
function backendFor(
  steps: Step[],
  input: PlanarFormat,
  output: PlanarFormat,
  size: number,
  plain = false,
): ExportBackend {
  const module = plain ? null : kernelModule();
  if (!module) return { name: 'plain' };
  if (isOneTable(steps) && kernelTakes(input, output, size)) return { name: 'kernel', module };
  return { name: 'rows', module, capacity: { width: input.width, ...maxOps(steps, size) } };
}
