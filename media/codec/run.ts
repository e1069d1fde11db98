import { spawn } from 'node:child_process';

/** A file or a job that cannot go on. `message` is a sentence for a person; `detail` is what the codec said. */
export class MediaError extends Error {
  constructor(
    message: string,
    readonly detail = '',
  ) {
    super(message);
  }
}

/** Arguments that hold for every call: no questions, quiet, and nothing but local files and pipes is ever opened. */
export const SAFE_INPUT = ['-protocol_whitelist', 'file,pipe'];
export const QUIET = ['-nostdin', '-hide_banner', '-loglevel', 'error'];

export interface RunOptions {
  /** Bytes for standard input. */
  input?: Uint8Array;
  signal?: AbortSignal;
  /** Give up after this many milliseconds. */
  timeoutMs?: number;
  /** Most bytes of standard output that are kept. */
  maxOutput?: number;
}

/**
 * Runs a codec program with a list of arguments (no shell). Resolves with its standard output; rejects with a
 * {@link MediaError} when it fails, is stopped or takes too long.
 */
export function run(program: 'ffmpeg' | 'ffprobe', args: string[], options: RunOptions = {}): Promise<Buffer> {
  const { input, signal, timeoutMs = 10 * 60_000, maxOutput = 1 << 30 } = options;
  return new Promise((resolve, reject) => {
    const child = spawn(program, args, { stdio: ['pipe', 'pipe', 'pipe'] });
    const out: Buffer[] = [];
    let size = 0;
    let err = '';
    const timer = setTimeout(() => child.kill('SIGKILL'), timeoutMs);
    const stop = () => child.kill('SIGKILL');
    signal?.addEventListener('abort', stop, { once: true });
    child.stdout.on('data', (chunk: Buffer) => {
      size += chunk.length;
      if (size > maxOutput) child.kill('SIGKILL');
      else out.push(chunk);
    });
    child.stderr.on('data', (chunk: Buffer) => {
      err = (err + chunk.toString()).slice(-8000);
    });
    child.on('error', (error: NodeJS.ErrnoException) => {
      clearTimeout(timer);
      reject(new MediaError(error.code === 'ENOENT' ? `The program ${program} is not installed.` : error.message));
    });
    child.on('close', (code) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', stop);
      if (signal?.aborted) reject(new MediaError('Stopped.'));
      else if (code === 0) resolve(Buffer.concat(out));
      else reject(new MediaError(explain(err), err));
    });
    child.stdin.on('error', () => undefined);
    child.stdin.end(input);
  });
}

/** A sentence for what the codec wrote to its error stream. */
export function explain(stderr: string): string {
  if (/No space left on device/.test(stderr)) return 'There is no room left on the disk.';
  if (/moov atom not found/.test(stderr))
    return 'The file is cut off, or it is not a video file: its index is missing, so no frame can be found.';
  if (/Invalid data found|could not find codec parameters|EBML header parsing failed/i.test(stderr)) {
    return 'This is not a video file, or it is damaged at its start.';
  }
  if (/No such file or directory/.test(stderr)) return 'The file is not there any more.';
  if (/Permission denied/.test(stderr)) return 'The file may not be opened.';
  if (/not on whitelist/.test(stderr))
    return 'The file points to an address outside of this machine, which is not opened.';
  return 'The codec could not work on this file.';
}
