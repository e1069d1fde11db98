import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fps, LONG_FRAMES } from '@inkavo/core/model/facts';
import type { ProxyPart } from '@inkavo/core/model/proxyParts';
import { concatList } from '../codec/join';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { QUIET, SAFE_INPUT, type RunOptions } from '../codec/run';
import { BACKGROUND, CARRY, encoded, GOP, LABEL, proxySize, writeWhole } from './proxy';
import { decodingFrom, evenFilter, originalIndex, type Source } from './rest';

/** Frames of a part: so few that one who waits for it does not wait long, little is lost when the program ends, and others have their turn. */
const PART_FRAMES = 40 * GOP;
/** A part is made in so many while somebody waits for it, each as soon as it can be. */
const SHORT = 4;
/** Frames of each of these. */
export const SHORT_FRAMES = PART_FRAMES / SHORT;
const LONGEST_MS = 6 * 3_600_000;
/** Sound before a part that is decoded and dropped, seconds: after a seek the first packets may be missing. */
const SOUND_AHEAD = 1;

/** What is wanted first: parts from a frame on. */
export interface Wanted {
  frame: number;
  /** Somebody waits to play from there. */
  waits: boolean;
}

export interface ProxyOptions {
  signal?: AbortSignal;
  /** Told how many frames there are. */
  onProgress?: (frames: number) => void;
  /** Asked between two parts: whether to break off here. */
  breaksOff?: () => Promise<boolean>;
  /** Asked before each part. */
  wanted?: () => Wanted;
  /** Told when a part is begun. `breakOff` gives it up for another one, if less than a share of it is made, 0–1. */
  onBegun?: (part: ProxyPart, breakOff: (below: number) => void) => void;
  /** Told when a part is there. */
  onMade?: (part: ProxyPart) => void;
  /** For tests: parts of so many frames, in clips that are longer than one. */
  partFrames?: number;
}

/** Where the parts of a proxy lie until it is whole. */
export const partsOf = (path: string): string => `${path}.parts`;
const partName = ({ first, count }: ProxyPart): string => `${first}-${first + count - 1}.mp4`;

/** Path of the part of a proxy at `path` that begins with a frame; undefined: it is not made. */
export const partAt = (path: string, first: number): string | undefined => {
  const part = partsMade(path).find((p) => p.first === first);
  return part && join(partsOf(path), partName(part));
};

/** The parts that there are of a proxy, in order. Each can be played, with its sound. */
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

/** The next part to be made: what is missing from the wanted frame on, then what is before it; undefined: nothing. */
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

/** The filter of sound that begins with a frame, at `start` seconds of its time stamps, and lasts as long as so many frames. */
function soundFilter({ facts }: Source, start: number, count: number): string {
  const [from, to] = [start, start + count / fps(facts)].map((s) => s.toFixed(6));
  return `atrim=start=${from}:end=${to},asetpts=PTS-(${from})/TB`;
}

/** Output arguments for the sound of an input, which begins with the first frame whatever comes first in the file. */
function soundArgs(source: Source, input: number): string[] {
  const { audio, startSeconds, frames } = source.facts;
  if (!audio) return [];
  // By the file's own time stamps: a seek may lose sound that lies before a keyframe.
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

/** Options that tell of frames as they are made: the codec program writes lines of `frame=…` to its standard output. */
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
 * Makes the proxy: H.264, a constant frame rate, frame n of the clip at n / rate. It carries the file's code values, super-whites
 * included, as `core/colour/proxyCodes.ts` says. Written beside and renamed when whole. A long one is made in parts, which stay
 * beside it when that is broken off and are taken the next time. They are left for those who play them: whoever asked for the
 * proxy removes them. Resolves with whether it is whole.
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
    // Of what is not broken off, something is made each time.
    if ((made > 0 || isBrokenOff) && (await breaksOff?.())) return false;
    // Told once of parts that are there already, so that a pace that is taken from this is that of the work.
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

/** Inputs, filters and number of the pictures of a part of a proxy. `more`: inputs after the first. */
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
    // Not by the number of frames of the output: with the last of them the codec program ends the sound too.
    `trim=end_frame=${count}`,
  ].join(',');
  return [
    ...[...QUIET, ...TELLS, ...DECODE_LIMITS, ...SAFE_INPUT, '-y', ...seek, '-i', path, ...more],
    ...['-map', `0:${PICTURES}`, '-sn', '-dn', '-vf', filter],
  ];
}
