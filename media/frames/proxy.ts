import { renameSync, rmSync } from 'node:fs';
import { CHART, CHART_COLUMNS, CHART_ROWS } from '@inkavo/core/colour/proxyCodes';
import { QUIET, run, type RunOptions } from '../codec/run';
import { fitWidth, type Source } from './rest';

/** Niceness, so that server and page stay responsive. */
export const BACKGROUND = 5;

/** Maximum width of a proxy, and its GOP length in frames. */
export const PROXY_WIDTH = 960;
export const GOP = 12;

const even = (n: number): number => Math.max(2, n - (n % 2));

/** Size of a clip's proxy. */
export function proxySize(source: Pick<Source, 'facts'>): { width: number; height: number } {
  const { width, height } = fitWidth(source.facts, PROXY_WIDTH);
  return { width: even(width), height: even(height) };
}

/** A proxy as a source of frames. Its values are converted back to the file's by {@link FILE_CODES}. */
export function proxySource(source: Source, path: string): Source {
  const { facts } = source;
  const { num, den } = facts.frameRate;
  const upright = { fields: 'progressive', pixelAspect: { num: 1, den: 1 } } as const;
  return {
    path,
    facts: { ...facts, ...proxySize(source), ...upright, variableRate: false, startSeconds: 0, seekAhead: 0, depth: 8 },
    times: Array.from({ length: facts.frames }, (_, n) => (n * den) / num),
    keys: Array.from({ length: Math.ceil(facts.frames / GOP) }, (_, k) => k * GOP),
  };
}

/** Runs the codec with a temporary output, renamed when complete. `args` end before the file. */
export async function writeWhole(path: string, args: string[], options: RunOptions): Promise<void> {
  const part = `${path}.part`;
  try {
    await run('ffmpeg', [...args, part], options);
    renameSync(part, path);
  } finally {
    rmSync(part, { force: true });
  }
}

/** Scales a file's code values for a proxy, see `core/colour/proxyCodes.ts`. */
export const CARRY = 'in_range=full:out_range=limited';
/** Filters that scale a proxy's values back to the file's code values. */
export const FILE_CODES = ['format=yuv420p', 'setparams=range=tv', 'scale=in_range=limited:out_range=full'];
/** Colour tags of a proxy, which browsers read. */
export const LABEL = 'setparams=range=pc:colorspace=bt709:color_primaries=bt709:color_trc=bt709';

/** Encoder settings of proxies. */
export const encoded = ({ num, den }: { num: number; den: number }): string[] => [
  ...['-r', `${num}/${den}`],
  ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '17'],
  ...['-g', String(GOP), '-keyint_min', String(GOP), '-sc_threshold', '0', '-bf', '0', '-pix_fmt', 'yuv420p'],
  ...['-color_range', 'pc', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'],
  ...['-movflags', '+faststart', '-f', 'mp4'],
];

/** Number of frames of the chart; one of them is measured. */
const CHART_FRAMES = 5;
const CHART_RATE = { num: 25, den: 1 };

/**
 * Makes the chart with which a page measures its browser's decoding of proxies: in the size of most proxies, so that it
 * takes the same path through the browser's decoders.
 */
export async function makeChart(path: string): Promise<void> {
  const [width, height] = [PROXY_WIDTH, (PROXY_WIDTH * 9) / 16];
  const plane = (channel: number, across: number, down: number): Uint8Array =>
    Uint8Array.from({ length: across * down }, (_, i) => {
      const [x, y] = [i % across, Math.floor(i / across)];
      const patch = Math.floor((y * CHART_ROWS) / down) * CHART_COLUMNS + Math.floor((x * CHART_COLUMNS) / across);
      return CHART[patch][channel];
    });
  const [cb, cr] = [1, 2].map((channel) => plane(channel, width / 2, height / 2));
  const frame = Buffer.concat([plane(0, width, height), cb, cr]);
  await writeWhole(
    path,
    [
      ...[...QUIET, '-y', '-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-s', `${width}x${height}`],
      ...['-r', `${CHART_RATE.num}/${CHART_RATE.den}`, '-i', '-'],
      ...['-vf', [`scale=${CARRY}`, 'format=yuv420p', LABEL].join(',')],
      ...encoded(CHART_RATE),
    ],
    { input: Buffer.concat(Array<Buffer>(CHART_FRAMES).fill(frame)) },
  );
}
