import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { fps } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import type { Delivery } from '@inkavo/core/model/job';
import { compile, changesOverTime, hasFieldEver } from '@inkavo/core/program/compile';
import { kernelScratchBytes, kernelTableBytes, kernelTakes } from '@inkavo/core/program/cpu/kernel';
import { pictureBytes, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { rowKernelBytes } from '@inkavo/core/program/cpu/rowKernel';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { decodedPixelFormat, planarFormatOf, seekSeconds } from '../codec/formats';
import { explain, MediaError, QUIET, SAFE_INPUT } from '../codec/run';
import { originalIndex, type Source } from '../frames/rest';
import { deliveredFormat, encoderArgs } from './delivery';
import { kernelModule } from './kernelFile';
import { allocateRing, Ring, type RingMemory } from './ring';
import type { ExportBackend, ThreadTask } from './thread';
import { threadProgram } from '../threadProgram';

export interface ExportOptions {
  source: Source;
  steps: Step[];
  delivery: Delivery;
  /** First and last frame of the clip's timeline, both delivered. */
  inFrame: number;
  outFrame: number;
  /** The finished file. It appears there only when whole; until then the work is in `${output}.part`. */
  output: string;
  /** Threads that grade at the same time; left out, as many as the backend needs. */
  threads?: number;
  /** The plain backend grades, as it does where the kernel has not been built. */
  plain?: boolean;
  onProgress?: (framesDone: number, frames: number) => void;
  signal?: AbortSignal;
}

/** Threads that grade at the same time; the kernel for one table outruns the codec with one. */
const MANY = 2;
/** Nodes an edge of an export's table; where numbers change over the clip, every frame has a table of its own. */
const TABLE_SIZE = 65;
const TIMED_TABLE_SIZE = 33;

const PROGRAM = 'export/thread.ts';

/** Makes what every export needs ready: the threads' program and the kernel. */
export function warmExports(): void {
  threadProgram(PROGRAM);
  kernelModule();
}

/**
 * Exports a clip through its grade. Frames cross from the decoder to the encoder as planar Y'CbCr through shared
 * memory: a thread reads the decoder's pipe, others grade, one writes the encoder's pipe. Resolves with the number of
 * frames. Throws a {@link MediaError}; then no file is left.
 */
export async function exportClip(options: ExportOptions): Promise<number> {
  const work = mkdtempSync(join(tmpdir(), 'inkavo-export-'));
  const part = `${options.output}.part`;
  try {
    const frames = await runPipeline(options, work, part);
    renameSync(part, options.output);
    return frames;
  } finally {
    rmSync(part, { force: true });
    rmSync(work, { recursive: true, force: true });
  }
}

async function runPipeline(options: ExportOptions, work: string, part: string): Promise<number> {
  const { source, steps, delivery, inFrame, outFrame, signal } = options;
  const { facts } = source;
  const frameSeconds = 1 / fps(facts);
  const expected = outFrame - inFrame + 1;
  const timed = changesOverTime(steps);
  const size = timed ? TIMED_TABLE_SIZE : TABLE_SIZE;
  const graded = timed || compile(steps, inFrame * frameSeconds).passes.length > 0;
  const output = deliveredFormat(facts, delivery, graded);
  // Without steps the decoder hands out what the encoder takes: code values stay what they are, super-whites too.
  const input = graded ? planarFormatOf(facts) : output;
  const backend = backendFor(steps, input, output, size, options.plain);
  const threadCount = options.threads ?? (backend.name === 'kernel' ? 1 : MANY);
  const ownBytes =
    backend.name === 'rows'
      ? rowKernelBytes(backend.room)
      : kernelTableBytes(size) + kernelScratchBytes(input.width) + 16;
  const memory = allocateRing(pictureBytes(input), pictureBytes(output), ownBytes, threadCount);
  const ring = new Ring(memory);

  const from = pipe(join(work, 'decoded'));
  const to = pipe(join(work, 'graded'));
  const startSeconds = inFrame * frameSeconds;
  const at = seekSeconds(source.times, originalIndex(source, inFrame), frameSeconds);
  const even = facts.variableRate
    ? ['-vf', `fps=${facts.frameRate.num}/${facts.frameRate.den}:round=near`]
    : ['-fps_mode', 'passthrough'];
  const decoder = start([
    ...QUIET,
    ...SAFE_INPUT,
    '-y',
    ...(at > 0 ? ['-ss', at.toFixed(6)] : []),
    '-i',
    source.path,
    '-map',
    '0:v:0',
    ...even,
    '-frames:v',
    String(expected),
    '-pix_fmt',
    decodedPixelFormat(input),
    '-f',
    'rawvideo',
    from.path,
  ]);
  const encoder = start([
    ...QUIET,
    ...SAFE_INPUT,
    '-y',
    ...encoderArgs({
      facts,
      delivery,
      format: output,
      graded,
      pipe: to.path,
      output: part,
      original: source.path,
      startSeconds,
      lengthSeconds: expected * frameSeconds,
    }),
  ]);
  const threads = startThreads(
    memory,
    { from: from.path, to: to.path, bytes: pictureBytes(input), outBytes: pictureBytes(output), count: threadCount },
    (first) => ({
      role: 'grade',
      ring: memory,
      first,
      every: threadCount,
      backend,
      graded,
      size,
      steps,
      luts: lutTexts(steps),
      input,
      output,
      startSeconds,
      frameSeconds,
    }),
  );

  const stopAll = () => {
    ring.stop();
    decoder.child.kill('SIGKILL');
    encoder.child.kill('SIGKILL');
  };
  signal?.addEventListener('abort', stopAll, { once: true });
  const timer = setInterval(() => options.onProgress?.(ring.written, expected), 200);
  try {
    if (signal?.aborted) stopAll();
    const outcomes = await Promise.all([
      // Our own hold on a pipe must go when its writer or reader has ended, or the other side would wait for ever.
      Promise.all([decoder.ended, threads.reading]).then(([error]) => (from.release(), error)),
      threads.ended.then((error) => (error && stopAll(), to.release(), error)),
      encoder.ended.then((error) => (error && stopAll(), error)),
      // An encoder that is gone must break the writer's pipe, once the writer holds its end of it.
      Promise.all([encoder.ended, threads.writing]).then(() => to.release()),
    ]);
    if (signal?.aborted) throw new MediaError('Stopped.');
    // An encoder that fails breaks the pipe of the threads, so its word counts more than theirs.
    const failure = outcomes[2] ?? outcomes[0] ?? outcomes[1];
    if (failure) throw failure;
    if (ring.written === 0) throw new MediaError('No frame of this file could be decoded.');
    options.onProgress?.(ring.written, expected);
    return ring.written;
  } finally {
    clearInterval(timer);
    signal?.removeEventListener('abort', stopAll);
  }
}

/** The fastest backend that takes these formats and steps. */
function backendFor(
  steps: Step[],
  input: PlanarFormat,
  output: PlanarFormat,
  size: number,
  plain = false,
): ExportBackend {
  const module = plain ? null : kernelModule();
  if (!module) return { name: 'plain' };
  const fields = steps.filter((s) => hasFieldEver(s)).length;
  if (fields === 0 && kernelTakes(input, output, size)) return { name: 'kernel', module };
  return { name: 'rows', module, room: { width: input.width, tables: fields + 1, fields, size } };
}

/** A named pipe that this process holds open, so that neither end blocks when it is opened. */
function pipe(path: string): { path: string; release: () => void } {
  execFileSync('mkfifo', ['-m', '600', path]);
  let fd: number | undefined = openSync(path, 'r+');
  return {
    path,
    release: () => {
      if (fd !== undefined) closeSync(fd);
      fd = undefined;
    },
  };
}

function start(args: string[]): { child: ChildProcess; ended: Promise<MediaError | undefined> } {
  const child = spawn('ffmpeg', args, { stdio: ['ignore', 'ignore', 'pipe'] });
  let err = '';
  child.stderr!.on('data', (chunk: Buffer) => {
    err = (err + chunk.toString()).slice(-8000);
  });
  const ended = new Promise<MediaError | undefined>((resolve) => {
    child.on('error', () => resolve(new MediaError('The program ffmpeg is not installed.')));
    child.on('close', (code) => resolve(code === 0 ? undefined : new MediaError(explain(err), err)));
  });
  return { child, ended };
}

function startThreads(
  ring: RingMemory,
  { from, to, bytes, outBytes, count }: { from: string; to: string; bytes: number; outBytes: number; count: number },
  gradeTask: (first: number) => ThreadTask,
): { reading: Promise<unknown>; writing: Promise<unknown>; ended: Promise<MediaError | undefined> } {
  const tasks: ThreadTask[] = [
    { role: 'read', ring, pipe: from, bytes },
    { role: 'write', ring, pipe: to, bytes: outBytes },
    ...Array.from({ length: count }, (_, i) => gradeTask(i)),
  ];
  const program = threadProgram(PROGRAM);
  const threads = tasks.map((task) => new Worker(program, { workerData: task }));
  const ends = threads.map(
    (thread) =>
      new Promise<MediaError | undefined>((resolve) => {
        thread.on('error', (error) => resolve(new MediaError('The export broke off.', String(error))));
        thread.on('exit', () => resolve(undefined));
      }),
  );
  // Reader and writer say when they hold their end of a pipe; until then ours must stay, or they would wait for ever.
  const open = (i: number) => Promise.race([new Promise((resolve) => threads[i].once('message', resolve)), ends[i]]);
  return { reading: open(0), writing: open(1), ended: Promise.all(ends).then((errors) => errors.find(Boolean)) };
}
