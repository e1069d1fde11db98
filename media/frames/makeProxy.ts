import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fps, LONG_FRAMES } from '@inkavo/core/model/facts';
import type { ProxyPart } from '@inkavo/core/model/proxyParts';
import { concatList } from '../codec/join';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { QUIET, SAFE_INPUT, type RunOptions } from '../codec/run';
import { BACKGROUND, CARRY, encoded, GOP, LABEL, proxySize, writeWhole } from './proxy';
import { decodingFrom, evenFilter, originalIndex, type Source } from './rest';

/**
 * Frames per part: short enough that waiting for one is short, that an interruption costs little, and that other jobs
 * get their turn.
 */
const PART_FRAMES = 40 * GOP;
/** Number of pieces of a part while a user waits for it, each available as soon as it is done. */
const SHORT = 4;
/** Frames of each of these. */
export const SHORT_FRAMES = PART_FRAMES / SHORT;
const LONGEST_MS = 6 * 3_600_000;
/** Seconds of sound before a part that are decoded and dropped: after a seek the first packets may be missing. */
const SOUND_AHEAD = 1;

/** Priority: parts from a frame on. */
export interface Wanted {
  frame: number;
  /** A user waits for playback from there. */
  waits: boolean;
}

export interface ProxyOptions {
  signal?: AbortSignal;
  /** Called with the total number of frames. */
  onProgress?: (frames: number) => void;
  /** Polled between parts: whether to stop here. */
  breaksOff?: () => Promise<boolean>;
  /** Called before each part. */
  wanted?: () => Wanted;
  /**
   * Called when a part begins. `breakOff` abandons it in favour of another one, if its progress is below a share, 0–1.
   */
  onBegun?: (part: ProxyPart, breakOff: (below: number) => void) => void;
  /** Called when a part is available. */
  onMade?: (part: ProxyPart) => void;
  /** For tests: frames per part, for clips longer than one part. */
  partFrames?: number;
}

/** Folder for the parts of a proxy until it is complete. */
export const partsOf = (path: string): string => `${path}.parts`;
const partName = ({ first, count }: ProxyPart): string => `${first}-${first + count - 1}.mp4`;

/** Path of the part of a proxy at `path` that begins with a frame; undefined: it does not exist. */
export const partAt = (path: string, first: number): string | undefined => {
  const part = partsMade(path).find((p) => p.first === first);
  return part && join(partsOf(path), partName(part));
};

/** The existing parts of a proxy, in order. Each is playable, including sound. */
export function partsMade(path: string): ProxyPart[] {
  const folder = partsOf(path);
  if (!existsSync(folder)) return [];
  return readdirSync(folder)
    .flatMap((name) => {
      const [, first, last] = (/^(\d+)-(\d+)\.mp4$/.exec(name) ?? []).map(Number);
      return first === undefined ? [] : [{ first, count: last - first + 1 }];
    })
    .sort((a, b) => a.first - b.first);
}

/** The next part to make: the first missing one from the wanted frame on, then before it; undefined: none. */
function nextPart(made: readonly ProxyPart[], frames: number, most: number, wanted: Wanted): ProxyPart | undefined {
  const short = Math.ceil(most / SHORT);
  const isMissing = (frame: number): boolean => !made.some((p) => frame >= p.first && frame < p.first + p.count);
  const missing = Array.from({ length: Math.ceil(frames / short) }, (_, k) => k * short).filter(isMissing);
  const from = wanted.frame - (wanted.frame % (wanted.waits ? short : most));
  const first = missing.find((frame) => frame >= from) ?? missing[0];
  if (first === undefined) return undefined;
  const whole = (frame: number): number => Math.floor(frame / most);
  const isWaitedFor = wanted.waits && whole(first) === whole(wanted.frame);
  let end = first + short;
  while (!isWaitedFor && end < frames && whole(end) === whole(first) && isMissing(end)) end += short;
  return { first, count: Math.min(end, frames) - first };
}

/**
 * Audio filter for sound that begins with a frame, at `start` seconds of its time stamps, and lasts this many frames.
 */
function soundFilter({ facts }: Source, start: number, count: number): string {
  const [from, to] = [start, start + count / fps(facts)].map((s) => s.toFixed(6));
  return `atrim=start=${from}:end=${to},asetpts=PTS-(${from})/TB`;
}

/** Output arguments for the sound of an input, aligned with the first frame. */
function soundArgs(source: Source, input: number): string[] {
  const { audio, startSeconds, frames } = source.facts;
  if (!audio) return [];
  // By the file's own time stamps: a seek may lose sound before a keyframe.
  return ['-map', `${input}:a:${audio.index}`, '-copyts', '-af', soundFilter(source, startSeconds, frames), ...SOUND];
}
const SOUND = ['-c:a', 'aac', '-b:a', '128k', '-ac', '2'];

/** Input and output arguments for the sound of a part, from a second input. */
function partSound(source: Source, { first, count }: ProxyPart): { input: string[]; output: string[] } {
  const { path, facts } = source;
  if (!facts.audio) return { input: [], output: [] };
  const from = first / fps(facts);
  const ahead = Math.min(from, SOUND_AHEAD);
  const at = (facts.startSeconds + from - ahead).toFixed(6);
  return {
    input: [...SAFE_INPUT, '-seek_timestamp', '1', '-ss', at, '-vn', '-i', path],
    output: ['-map', `1:a:${facts.audio.index}`, '-af', soundFilter(source, ahead, count), ...SOUND],
  };
}

/** Options for progress reports: the codec program writes lines of `frame=…` to its standard output. */
function watched(options: RunOptions, onFrames: (frames: number) => void): RunOptions {
  return {
    ...options,
    onOutput(chunk) {
      const frames = [...chunk.toString().matchAll(/^frame=(\d+)/gm)].at(-1)?.[1];
      if (frames) onFrames(Number(frames));
    },
  };
}
const TELLS = ['-progress', 'pipe:1', '-stats_period', '0.5'];

/**
 * Makes the proxy: H.264 at a constant frame rate, frame n of the clip at n / rate. It carries the file's code values,
 * including super-whites, as `core/colour/proxyCodes.ts` describes. Written to a temporary file and renamed when
 * complete. A long one is made in parts, which are reused after an interruption and stay available for playback; the
 * caller removes them. Resolves with whether it is complete.
 */
export async function makeProxy(
  source: Source,
  path: string,
  { signal, onProgress, breaksOff, wanted, onBegun, onMade, partFrames }: ProxyOptions = {},
): Promise<boolean> {
  const { frames, frameRate } = source.facts;
  const options = { signal, timeoutMs: LONGEST_MS, nice: BACKGROUND };
  if (frames <= (partFrames ?? LONG_FRAMES)) {
    await writeWhole(
      path,
      [...pictureArgs(source, { first: 0, count: frames }), ...soundArgs(source, 0), ...encoded(frameRate)],
      watched(options, (made) => onProgress?.(Math.min(frames, made))),
    );
    return true;
  }
  const folder = partsOf(path);
  mkdirSync(folder, { recursive: true });
  let isBrokenOff = false;
  for (;;) {
    const parts = partsMade(path);
    const made = parts.reduce((sum, { count }) => sum + count, 0);
    const next = nextPart(parts, frames, partFrames ?? PART_FRAMES, wanted?.() ?? { frame: 0, waits: false });
    if (!next) break;
    // Some progress is made each time, even if interrupted.
    if ((made > 0 || isBrokenOff) && (await breaksOff?.())) return false;
    // Reported once for existing parts, so that pace estimates only count actual work.
    if (made > 0) onProgress?.(made);
    const own = new AbortController();
    let inPart = 0;
    onBegun?.(next, (below) => {
      if (inPart < below * next.count) own.abort();
    });
    const sound = partSound(source, next);
    const told = watched({ ...options, signal: signal ? AbortSignal.any([signal, own.signal]) : own.signal }, (n) => {
      inPart = n;
      onProgress?.(Math.min(frames, made + n));
    });
    isBrokenOff = false;
    try {
      await writeWhole(
        join(folder, partName(next)),
        [...pictureArgs(source, next, sound.input), ...sound.output, ...encoded(frameRate)],
        told,
      );
    } catch (error) {
      if (!own.signal.aborted || signal?.aborted) throw error;
      isBrokenOff = true;
      continue;
    }
    onMade?.(next);
  }
  onProgress?.(frames);
  const list = join(folder, 'list.txt');
  writeFileSync(
    list,
    concatList(partsMade(path).map((p) => ({ path: join(folder, partName(p)), seconds: p.count / fps(source.facts) }))),
  );
  await writeWhole(
    path,
    [
      ...[...QUIET, '-y', '-protocol_whitelist', 'file,pipe', '-f', 'concat', '-safe', '0', '-i', list],
      ...(source.facts.audio ? [...SAFE_INPUT, '-vn', '-i', source.path] : []),
      ...['-map', '0:v', ...soundArgs(source, 1), '-c:v', 'copy', '-movflags', '+faststart', '-f', 'mp4'],
    ],
    options,
  );
  return true;
}

/** Inputs, filters and number of frames of a part of a proxy. `more`: inputs after the first. */
function pictureArgs(source: Source, { first, count }: ProxyPart, more: readonly string[] = []): string[] {
  const { facts, path } = source;
  const { width, height } = proxySize(source);
  const { num, den } = facts.frameRate;
  const { seek, filters } = decodingFrom(source, originalIndex(source, first));
  const filter = [
    ...filters,
    `scale=${width}:${height}:flags=area:${CARRY}`,
    'format=yuv420p',
    LABEL,
    facts.variableRate ? evenFilter(source, first) : `setpts=N*${den}/${num}/TB`,
    // Not limited by the output's number of frames: after the last one the codec program would end the sound too.
    `trim=end_frame=${count}`,
  ].join(',');
  return [
    ...[...QUIET, ...TELLS, ...DECODE_LIMITS, ...SAFE_INPUT, '-y', ...seek, '-i', path, ...more],
    ...['-map', `0:${PICTURES}`, '-sn', '-dn', '-vf', filter],
  ];
}
