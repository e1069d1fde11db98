import { spawn, type ChildProcess, type StdioOptions } from 'node:child_process';
import { existsSync } from 'node:fs';

export type CodecProgram = 'ffmpeg' | 'ffprobe';

/** Resource limits of a codec process. */
export interface Limits {
  /** Address space in bytes. Default {@link MEMORY}. */
  memory?: number;
  /** CPU seconds of all threads together. Default: unlimited. */
  cpuSeconds?: number;
  /** Niceness relative to this process (0–19), for background work. Default 0. */
  nice?: number;
}

/**
 * Address space of a codec process. At the maximum size, 8192 × 4608 at 10 bit, decoding a frame and scaling it takes
 * 0.9 GB, and encoding with H.265 on two cores 4.5 GB, more on more cores (measured).
 */
export const MEMORY = 16 * 2 ** 30;

/** Debian's util-linux and coreutils; if missing, the codec runs without limits. */
const has = (program: string): boolean => existsSync(`/usr/bin/${program}`);
const [SETPRIV, PRLIMIT, NICE] = ['setpriv', 'prlimit', 'nice'].map(has);

/**
 * Starts a codec program with a list of arguments, no shell. It is killed when this process dies, however that happens
 * (PR_SET_PDEATHSIG, see prctl(2)): each wrapper execs the next, so there is no process in between.
 */
export function spawnCodec(
  program: CodecProgram,
  args: readonly string[],
  stdio: StdioOptions,
  { memory = MEMORY, cpuSeconds, nice = 0 }: Limits = {},
): ChildProcess {
  const command = [
    ...(SETPRIV ? ['setpriv', '--pdeathsig', 'KILL'] : []),
    ...(NICE && nice > 0 ? ['nice', '-n', String(nice)] : []),
    ...(PRLIMIT ? ['prlimit', `--as=${memory}`, ...(cpuSeconds ? [`--cpu=${cpuSeconds}`] : [])] : []),
    program,
    ...args,
  ];
  return spawn(command[0], command.slice(1), { stdio, env: process.env });
}

/** Exit status of the wrappers if the program does not exist. */
export const NOT_FOUND = 127;
