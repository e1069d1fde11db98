import { renameSync, rmSync } from 'node:fs';
import { conformFilters } from '../codec/conform';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { QUIET, run, SAFE_INPUT, type RunOptions } from '../codec/run';
import { evenFilter, fitWidth, type Source } from './rest';

/** Niceness beside a server that must answer and a page that is worked on. */
const BACKGROUND = 5;

/** Widest proxy, and its distance between keyframes in frames. */
export const PROXY_WIDTH = 960;
export const GOP = 12;

const even = (n: number): number => Math.max(2, n - (n % 2));

/** Size of a clip's proxy. */
export function proxySize(source: Pick<Source, 'facts'>): { width: number; height: number } {
  const { width, height } = fitWidth(source.facts, PROXY_WIDTH);
  return { width: even(width), height: even(height) };
}

/** Lets the codec write a file beside its place, and puts it there when it is whole. `args` end before the file. */
async function writeWhole(path: string, args: string[], options: RunOptions): Promise<void> {
  const part = `${path}.part`;
  try {
    await run('ffmpeg', [...args, part], options);
    renameSync(part, path);
  } finally {
    rmSync(part, { force: true });
  }
}

/**
 * Makes the proxy: H.264, a constant frame rate, frame n of the clip at n / rate. It carries the file's code values
 * as they are under a full-range label, so that nothing between decoder and screen clips super-whites.
 * Written beside and renamed when whole.
 */
export async function makeProxy(source: Source, path: string, signal?: AbortSignal): Promise<void> {
  const { facts } = source;
  const { width, height } = proxySize(source);
  const { num, den } = facts.frameRate;
  const timing = facts.variableRate ? evenFilter(source, 0) : `setpts=N*${den}/${num}/TB`;
  const filter = [
    ...conformFilters(facts),
    `scale=${width}:${height}:flags=area:in_range=full:out_range=full`,
    'format=yuv420p',
    'setparams=range=pc:colorspace=bt709:color_primaries=bt709:color_trc=bt709',
    timing,
  ].join(',');
  await writeWhole(
    path,
    [
      ...QUIET,
      ...DECODE_LIMITS,
      ...SAFE_INPUT,
      '-y',
      '-i',
      source.path,
      '-map',
      `0:${PICTURES}`,
      '-map',
      '0:a:0?',
      '-sn',
      '-dn',
      '-vf',
      filter,
      '-r',
      `${num}/${den}`,
      '-frames:v',
      String(facts.frames),
      '-c:v',
      'libx264',
      '-preset',
      'veryfast',
      '-crf',
      '17',
      '-g',
      String(GOP),
      '-keyint_min',
      String(GOP),
      '-sc_threshold',
      '0',
      '-bf',
      '0',
      '-pix_fmt',
      'yuv420p',
      '-color_range',
      'pc',
      '-colorspace',
      'bt709',
      '-color_primaries',
      'bt709',
      '-color_trc',
      'bt709',
      '-c:a',
      'aac',
      '-b:a',
      '128k',
      '-ac',
      '2',
      '-movflags',
      '+faststart',
      '-f',
      'mp4',
    ],
    { signal, timeoutMs: 6 * 3600_000, nice: BACKGROUND },
  );
}

/** Frames in a strip. */
export const STRIP_FRAMES = 12;
const STRIP_HEIGHT = 54;

/** Makes the strip of frames under the picture from the proxy: one JPEG, {@link STRIP_FRAMES} pictures side by side. */
export async function makeStrip(source: Source, proxyPath: string, path: string, signal?: AbortSignal): Promise<void> {
  const { facts } = source;
  const interval = Math.max(1, Math.floor(facts.frames / STRIP_FRAMES));
  // The proxy's label says full range; its values are the file's.
  const filter = [
    `setparams=range=${facts.range === 'full' ? 'pc' : 'tv'}`,
    `select='not(mod(n,${interval}))'`,
    `scale=-2:${STRIP_HEIGHT}:out_range=full`,
    'format=yuvj420p',
    `tile=${STRIP_FRAMES}x1`,
  ].join(',');
  await writeWhole(
    path,
    [
      ...QUIET,
      ...SAFE_INPUT,
      '-y',
      '-i',
      proxyPath,
      '-an',
      '-vf',
      filter,
      '-frames:v',
      '1',
      '-q:v',
      '4',
      '-f',
      'mjpeg',
    ],
    { signal, nice: BACKGROUND },
  );
}
