import { seekArgs } from '../codec/formats';
import { DECODE_LIMITS } from '../codec/probe';
import { QUIET, run, SAFE_INPUT } from '../codec/run';
import { proxySize } from '../frames/proxy';
import type { Source } from '../frames/rest';

/** Pixels that a picture for following is wide, at most. */
const WIDTH = 480;

export interface LumaFrames {
  width: number;
  height: number;
  /** 8-bit luma (the file's code values, whatever its range), frame after frame. */
  luma: Uint8Array;
  frames: number;
}

/** Luma of all frames from one to another, both included, averaged down. From the proxy where there is one. */
export async function lumaFrames(
  { path, facts }: Source,
  { proxy, first, last }: { proxy?: string; first: number; last: number },
  signal?: AbortSignal,
): Promise<LumaFrames> {
  const from = proxy ? proxySize({ facts }) : facts;
  const width = Math.min(from.width, WIDTH) & ~1;
  const height = Math.max(2, Math.round((from.height * width) / from.width) & ~1);
  const rate = facts.frameRate.num / facts.frameRate.den;
  // Sought half a frame early, so that rounding never leaves out the first one.
  const seek = Math.max(0, (first - 0.5) / rate);
  const filter = [
    ...(facts.variableRate && !proxy ? [`fps=${facts.frameRate.num}/${facts.frameRate.den}:round=near`] : []),
    `scale=${width}:${height}:flags=area:in_range=full:out_range=full`,
    'format=gray',
  ].join(',');
  const raw = await run(
    'ffmpeg',
    [
      ...QUIET,
      ...DECODE_LIMITS,
      ...SAFE_INPUT,
      ...(proxy ? ['-ss', seek.toFixed(6)] : seekArgs(facts, seek)),
      ...['-i', proxy ?? path, '-an', '-sn', '-dn', '-map', '0:v:0', '-vf', filter],
      ...['-fps_mode', 'passthrough', '-frames:v', String(last - first + 1), '-f', 'rawvideo', '-'],
    ],
    { signal },
  );
  return { width, height, luma: new Uint8Array(raw), frames: Math.floor(raw.length / (width * height)) };
}
