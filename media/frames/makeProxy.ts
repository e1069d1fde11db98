import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fps, LONG_FRAMES } from '@inkavo/core/model/facts';
import { concatList } from '../codec/join';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { QUIET, SAFE_INPUT, type RunOptions } from '../codec/run';
import { BACKGROUND, CARRY, encoded, LABEL, proxySize, writeWhole } from './proxy';
import { decodingFrom, evenFilter, originalIndex, type Source } from './rest';

/** Frames of a part: half a minute at most rates, so that little is lost when the program ends, and others wait no longer. */
const PART_FRAMES = LONG_FRAMES / 2;
const LONGEST_MS = 6 * 3_600_000;

export interface ProxyOptions {
  signal?: AbortSignal;
  /** Told how many frames there are. */
  onProgress?: (frames: number) => void;
  /** Asked between two parts: whether to break off here. */
  breaksOff?: () => Promise<boolean>;
  /** For tests. */
  partFrames?: number;
}

/** Where the parts of a proxy lie until it is whole. */
export const partsOf = (path: string): string => `${path}.parts`;

/** Output arguments for the sound of an input, which begins with the first frame whatever comes first in the file. */
function soundArgs({ facts: { audio, startSeconds } }: Source, input: number): string[] {
  if (!audio) return [];
  const start = startSeconds.toFixed(6);
  // By the file's own time stamps: a seek may lose sound that lies before a keyframe.
  const filter = ['-copyts', '-af', `atrim=start=${start},asetpts=PTS-(${start})/TB`];
  return ['-map', `${input}:a:${audio.index}`, ...filter, '-c:a', 'aac', '-b:a', '128k', '-ac', '2'];
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
 * beside it when that is broken off and are taken the next time. Resolves with whether it is whole.
 */
export async function makeProxy(
  source: Source,
  path: string,
  { signal, onProgress, breaksOff, partFrames = PART_FRAMES }: ProxyOptions = {},
): Promise<boolean> {
  const { frames, frameRate } = source.facts;
  const options = { signal, timeoutMs: LONGEST_MS, nice: BACKGROUND };
  const told = (before: number) => watched(options, (made) => onProgress?.(Math.min(frames, before + made)));
  if (frames <= 2 * partFrames) {
    await writeWhole(
      path,
      [...pictureArgs(source, 0, frames), ...soundArgs(source, 0), ...encoded(frameRate)],
      told(0),
    );
    return true;
  }
  const folder = partsOf(path);
  mkdirSync(folder, { recursive: true });
  const parts: { path: string; seconds: number }[] = [];
  for (let first = 0; first < frames; first += partFrames) {
    const count = Math.min(partFrames, frames - first);
    const part = join(folder, `${first}+${count}.mp4`);
    if (!existsSync(part)) {
      if (first > 0 && (await breaksOff?.())) return false;
      // Told once of parts that are there already, so that a pace that is taken from this is that of the work.
      if (first > 0) onProgress?.(first);
      await writeWhole(part, [...pictureArgs(source, first, count), ...encoded(frameRate)], told(first));
    }
    parts.push({ path: part, seconds: count / fps(source.facts) });
  }
  onProgress?.(frames);
  const list = join(folder, 'list.txt');
  writeFileSync(list, concatList(parts));
  await writeWhole(
    path,
    [
      ...[...QUIET, '-y', '-protocol_whitelist', 'file,pipe', '-f', 'concat', '-safe', '0', '-i', list],
      ...(source.facts.audio ? [...SAFE_INPUT, '-vn', '-i', source.path] : []),
      ...['-map', '0:v', ...soundArgs(source, 1), '-c:v', 'copy', '-movflags', '+faststart', '-f', 'mp4'],
    ],
    options,
  );
  rmSync(folder, { recursive: true, force: true });
  return true;
}

/** Input, filters and number of the pictures of a proxy, from a frame on. */
function pictureArgs(source: Source, first: number, count: number): string[] {
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
  ].join(',');
  return [
    ...[...QUIET, ...TELLS, ...DECODE_LIMITS, ...SAFE_INPUT, '-y', ...seek, '-i', path],
    ...['-map', `0:${PICTURES}`, '-sn', '-dn', '-vf', filter, '-frames:v', String(count)],
  ];
}
