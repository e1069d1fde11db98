import { execFile } from 'node:child_process';
import { closeSync, constants, openSync } from 'node:fs';
import type { Readable } from 'node:stream';
import { promisify } from 'node:util';
import { Worker } from 'node:worker_threads';
import { failureOf, MediaError } from '../codec/run';
import { spawnCodec } from '../codec/spawn';
import type { Ring } from './ring';
import type { ThreadNote, ThreadTask } from './thread';

/** A codec process or a thread of an export. */
export interface Part {
  /** Resolves when it has ended, with the reason if it ended prematurely. Never rejects. */
  ended: Promise<MediaError | undefined>;
  /** Kills it; no effect on a thread, which ends when ring and pipes are broken. */
  kill(): void;
}

export interface Parts {
  decoder: Part;
  encoder: Part;
  reader: Part;
  writer: Part;
  grading: Part[];
  /** Named pipes: decoder to reader, writer to encoder. */
  from: string;
  to: string;
}

/** Niceness of the codec, so that the server stays responsive. */
const BACKGROUND = 5;
/** Time for an encoder with a broken pipe to report why, before it is killed. */
const LAST_WORDS_MS = 1000;
/** Number of times that broken pipes are reopened for threads that open them late. */
const BREAK_EVERY_MS = 50;

/** Creates a named pipe. Only its two ends hold it, so that each sees when the other closes. */
export async function makePipe(path: string): Promise<string> {
  await promisify(execFile)('mkfifo', ['-m', '600', path]);
  return path;
}

/** Releases anyone waiting for the other end of a pipe by briefly opening both ends. */
function breakPipe(path: string): void {
  try {
    closeSync(openSync(path, constants.O_RDWR | constants.O_NONBLOCK));
  } catch {
    // The pipe is gone, so nobody can be waiting.
  }
}

/** `onOutput` receives its standard output; omitted: discarded. */
export function startCodec(name: 'decoder' | 'encoder', args: string[], onOutput?: (output: Readable) => void): Part {
  const child = spawnCodec('ffmpeg', args, ['ignore', onOutput ? 'pipe' : 'ignore', 'pipe'], { nice: BACKGROUND });
  if (onOutput) onOutput(child.stdout!);
  let err = '';
  let killed = false;
  child.stderr!.on('data', (chunk: Buffer) => {
    err = (err + chunk.toString()).slice(-8000);
  });
  const ended = new Promise<MediaError | undefined>((resolve) => {
    child.on('error', (error) => resolve(new MediaError(`The ${name} could not be started.`, String(error))));
    child.on('close', (code, signal) =>
      resolve(code === 0 || killed ? undefined : failureOf('ffmpeg', code, signal, err)),
    );
  });
  return {
    ended,
    kill() {
      killed = true;
      child.kill('SIGKILL');
    },
  };
}

export function startThread(program: string, task: ThreadTask): Part {
  const thread = new Worker(program, { workerData: task });
  let done = false;
  thread.on('message', (note: ThreadNote) => (done ||= note === 'done'));
  const ended = new Promise<MediaError | undefined>((resolve) => {
    thread.on('error', (error) => resolve(new MediaError('The export broke off.', `${task.role}: ${String(error)}`)));
    thread.on('exit', (code) =>
      resolve(
        done ? undefined : new MediaError('The export broke off.', `${task.role}: ended with ${code} before its time`),
      ),
    );
  });
  return { ended, kill: () => undefined };
}

/**
 * Waits for all parts of an export. When one fails, or the signal fires, the others are stopped. Throws the root cause.
 */
export async function supervise(ring: Ring, parts: Parts, signal?: AbortSignal): Promise<void> {
  const { decoder, encoder, reader, writer, grading, from, to } = parts;
  const threads = [reader, writer, ...grading];
  let breaking: ReturnType<typeof setInterval> | undefined;
  const breakPipes = (): void => [from, to].forEach(breakPipe);
  const stopAll = (): void => {
    ring.stop();
    decoder.kill();
    encoder.kill();
    breaking ??= setInterval(breakPipes, BREAK_EVERY_MS);
    breakPipes();
  };
  const watch = async (part: Part): Promise<void> => {
    if (await part.ended) stopAll();
  };
  signal?.addEventListener('abort', stopAll, { once: true });
  if (signal?.aborted) stopAll();
  let lastWords: ReturnType<typeof setTimeout> | undefined;
  try {
    await Promise.all([
      ...threads.map(watch),
      watch(encoder),
      // A decoder that ended before opening its pipe leaves the reader waiting.
      watch(decoder).then(() => breakPipe(from)),
      // The writer ends at the end of the clip, or with a broken pipe. Then the encoder has to end as well.
      writer.ended.then(() => {
        if (!ring.atEnd) lastWords = setTimeout(() => encoder.kill(), LAST_WORDS_MS);
      }),
      // An encoder that ended before opening its pipe leaves the writer waiting.
      encoder.ended.then(() => breakPipe(to)),
      // Anything the encoder has not read is lost.
      Promise.all([encoder.ended, writer.ended]).then(() => ring.atEnd || stopAll()),
    ]);
  } finally {
    clearTimeout(lastWords);
    clearInterval(breaking);
    signal?.removeEventListener('abort', stopAll);
  }
  if (signal?.aborted) throw new MediaError('Stopped.');
  // Threads whose encoder is gone, and a decoder whose reader is gone, fail only as a consequence.
  for (const part of [encoder, ...threads, decoder]) {
    const failure = await part.ended;
    if (failure) throw failure;
  }
  if (!ring.atEnd) throw new MediaError('The encoder ended before the clip did.');
}
