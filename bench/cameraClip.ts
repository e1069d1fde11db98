import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { noiseTile } from '@inkavo/demo/noise';

/**
 * Standard deviation of the noise in luma and in chroma, in 10-bit code values: a small sensor at dusk (common
 * practice).
 */
const LUMA_NOISE = 8;
const CHROMA_NOISE = 4;
const TILE = 1 << 20;

const quiet = ['-loglevel', 'error', '-nostdin', '-y'];

/**
 * A clip like a camera's, made from a 10-bit 4:2:0 one: with sensor noise, HEVC at 60 Mbit/s with a keyframe every 24
 * frames. `frames` of it, looped if the original is shorter. Deterministic except for the encoder's threads.
 */
export async function makeCameraClip(
  original: string,
  path: string,
  size: { width: number; height: number },
  frames: number,
): Promise<void> {
  const raw = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p10le'];
  const decoder = spawn(
    'ffmpeg',
    [...quiet, '-stream_loop', '-1', '-i', original, '-frames:v', `${frames}`, ...raw, '-'],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  );
  const tags = ['-color_range', 'tv', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'];
  const rate = ['-b:v', '60M', '-maxrate', '70M', '-bufsize', '60M'];
  const encoder = spawn(
    'ffmpeg',
    [
      ...quiet,
      ...[...raw, '-s', `${size.width}x${size.height}`, '-r', '24', '-i', '-'],
      ...['-c:v', 'libx265', '-preset', 'ultrafast', ...rate, '-g', '24', '-x265-params', 'log-level=error'],
      ...[...tags, '-tag:v', 'hvc1', path],
    ],
    { stdio: ['pipe', 'inherit', 'inherit'] },
  );
  const noise = noiseTile(TILE, 7);
  const luma = size.width * size.height;
  const frame = Buffer.alloc(3 * luma);
  let [filled, seed] = [0, 1];
  for await (const chunk of decoder.stdout as AsyncIterable<Buffer>) {
    for (let from = 0; from < chunk.length;) {
      const taken = chunk.copy(frame, filled, from, from + frame.length - filled);
      from += taken;
      filled += taken;
      if (filled < frame.length) continue;
      const values = new Uint16Array(frame.buffer, frame.byteOffset, frame.length / 2);
      // Another part of the tile for every frame, so that noise changes.
      seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
      for (let i = 0; i < values.length; i += 1) {
        const deviation = i < luma ? LUMA_NOISE : CHROMA_NOISE;
        const v = values[i] + deviation * noise[(i * 7 + seed) & (TILE - 1)] + 0.5;
        values[i] = v < 0 ? 0 : v > 1023 ? 1023 : v;
      }
      if (!encoder.stdin.write(Buffer.from(frame))) await once(encoder.stdin, 'drain');
      filled = 0;
    }
  }
  encoder.stdin.end();
  const [code] = (await once(encoder, 'close')) as [number];
  if (code !== 0) throw new Error('The camera clip could not be encoded.');
}
