import { NOT_FOUND, spawnCodec, type CodecProgram, type Limits } from './spawn';

/** A file or a job that failed. `message` is for the user; `detail` is the codec's output. */
export class MediaError extends Error {
  constructor(
    message: string,
    readonly detail = '',
  ) {
    super(message);
  }
}

/**
 * Demuxers for supported containers: those that cameras write, none that refers to other files (HLS, DASH,
 * concatenation scripts, image sequences). The demuxer is chosen by a file's content.
 */
const CONTAINERS = 'mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mpegts,mxf,mpeg';

/** Arguments before each `-i`: local files and pipes only, supported containers only. */
export const SAFE_INPUT = [
  ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', CONTAINERS],
  // Some containers lack presentation time stamps, which are then derived.
  ...['-fflags', '+genpts'],
];
/** Non-interactive, errors only. */
export const QUIET = ['-nostdin', '-hide_banner', '-loglevel', 'error'];

export interface RunOptions extends Limits {
  /** Bytes for standard input. */
  input?: Uint8Array;
  signal?: AbortSignal;
  /** Time-out in milliseconds. */
  timeoutMs?: number;
  /** Maximum bytes of standard output. */
  maxOutput?: number;
  /** Receives the output as it arrives, instead of collecting it. An exception stops the program and is passed on. */
  onOutput?: (chunk: Buffer) => void;
}

/**
 * Runs a codec program with a list of arguments (no shell). Resolves with its standard output; rejects with a {@link
 * MediaError} when it fails, is stopped, times out or exceeds the output limit.
 */
export function run(program: CodecProgram, args: string[], options: RunOptions = {}): Promise<Buffer> {
  const { input, signal, timeoutMs = 10 * 60_000, maxOutput = 1 << 30, onOutput } = options;
  return new Promise((resolve, reject) => {
    if (signal?.aborted) return reject(new MediaError('Stopped.'));
    const child = spawnCodec(program, args, ['pipe', 'pipe', 'pipe'], options);
    const out: Buffer[] = [];
    let size = 0;
    let err = '';
    let ended: Error | undefined;
    const end = (reason: Error): void => {
      ended ??= reason;
      child.kill('SIGKILL');
    };
    const timer = setTimeout(() => end(new MediaError('The codec took too long over this file.')), timeoutMs);
    const stop = () => end(new MediaError('Stopped.'));
    signal?.addEventListener('abort', stop, { once: true });
    child.stdout!.on('data', (chunk: Buffer) => {
      size += chunk.length;
      try {
        if (size > maxOutput) throw new MediaError('The codec has more to say about this file than is kept.');
        if (onOutput) onOutput(chunk);
        else out.push(chunk);
      } catch (error) {
        end(error as Error);
      }
    });
    child.stderr!.on('data', (chunk: Buffer) => {
      err = (err + chunk.toString()).slice(-8000);
    });
    child.on('error', (error: NodeJS.ErrnoException) => {
      clearTimeout(timer);
      reject(error.code === 'ENOENT' ? notInstalled(program) : new MediaError(error.message));
    });
    child.on('close', (code, killedBy) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', stop);
      if (ended) reject(ended);
      else if (code === 0) resolve(Buffer.concat(out));
      else reject(failureOf(program, code, killedBy, err));
    });
    child.stdin!.on('error', () => undefined);
    child.stdin!.end(input);
  });
}

const notInstalled = (program: string): MediaError => new MediaError(`The program ${program} is not installed.`);

/** How a codec program ended: its exit status or signal, and its error output. */
export function failureOf(program: string, code: number | null, signal: string | null, stderr: string): MediaError {
  if (code === NOT_FOUND) return notInstalled(program);
  if (signal === 'SIGXCPU') return new MediaError('The codec took too long over this file.', stderr);
  if (signal) return new MediaError(`The program ${program} was ended from outside (${signal}).`, stderr);
  return new MediaError(explain(stderr), stderr);
}

/** A message from the codec's error output. */
export function explain(stderr: string): string {
  if (/No space left on device/.test(stderr)) return 'There is no room left on the disk.';
  if (/Format not on whitelist/i.test(stderr))
    return 'This is not a video file of a known kind: MP4, MOV, MKV, WebM, AVI, MXF and transport streams are opened. Lists that point to other files are not.';
  if (/Cannot allocate memory/.test(stderr))
    return 'This file asks for more memory than it may have: its header is damaged, or its picture too large.';
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
