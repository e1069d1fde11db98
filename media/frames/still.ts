import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { readHeader } from '../codec/header';
import { QUIET, run, SAFE_INPUT } from '../codec/run';

/** Encodes R'G'B' (clipped to 0–1) as PNG with 16 bits per channel. `rgb` holds width × height × 3 values. */
export async function encodePng16(rgb: Float32Array, width: number, height: number): Promise<Buffer> {
  return encode(samples16(rgb), 'rgb48le', width, height, ['-c:v', 'png', '-f', 'image2pipe']);
}

/** File formats of a still. */
export const STILL_FORMS = ['png', 'tiff', 'jpg'] as const;
export type StillForm = (typeof STILL_FORMS)[number];

/**
 * Encodes R'G'B' (clipped to 0–1) as PNG or TIFF with 16 bits per channel, or as JPEG with 8 bits and 4:4:4 chroma.
 * `quality`, 1–100, applies to JPEG. `rgb` holds width × height × 3 values.
 */
export async function encodeStill(
  rgb: Float32Array,
  width: number,
  height: number,
  { form, quality = 92 }: { form: StillForm; quality?: number },
): Promise<Buffer> {
  if (form === 'png') return encodePng16(rgb, width, height);
  if (form === 'tiff')
    return encode(samples16(rgb), 'rgb48le', width, height, [
      '-c:v',
      'tiff',
      '-compression_algo',
      'deflate',
      '-f',
      'image2pipe',
    ]);
  const bytes = Uint8Array.from(rgb, (v) => Math.round(Math.min(1, Math.max(0, v)) * 255));
  // The encoder's scale is 1 (finest) to 31.
  const q = 1 + (30 * (100 - quality)) / 100;
  const args = ['-pix_fmt', 'yuvj444p', '-c:v', 'mjpeg', '-q:v', q.toFixed(2), '-qmin', '1', '-f', 'image2pipe'];
  return encode(bytes, 'rgb24', width, height, args);
}

function samples16(rgb: Float32Array): Buffer {
  const raw = Buffer.allocUnsafe(rgb.length * 2);
  for (let i = 0; i < rgb.length; i += 1)
    raw.writeUInt16LE(Math.round(Math.min(1, Math.max(0, rgb[i])) * 65535), i * 2);
  return raw;
}

const encode = (raw: Uint8Array, pixel: string, width: number, height: number, out: string[]): Promise<Buffer> =>
  run(
    'ffmpeg',
    [
      ...QUIET.filter((a) => a !== '-nostdin'),
      '-f',
      'rawvideo',
      '-pix_fmt',
      pixel,
      '-s',
      `${width}x${height}`,
      '-i',
      'pipe:0',
      '-frames:v',
      '1',
      ...out,
      '-',
    ],
    {
      input: raw,
    },
  );

/** A frame from the middle of a file that is not in the library, as a JPEG of this width. */
export async function previewOf(path: string, width: number, signal?: AbortSignal): Promise<Buffer> {
  const { seconds } = await readHeader(path, signal);
  const middle = ['-ss', (seconds / 2).toFixed(3), '-i', path, '-map', `0:${PICTURES}`, '-frames:v', '1'];
  const args = [...QUIET, ...DECODE_LIMITS, ...SAFE_INPUT, ...middle];
  const out = ['-vf', `scale=iw*sar:ih,scale=${width}:-2`, '-c:v', 'mjpeg', '-q:v', '4', '-f', 'image2pipe', '-'];
  return run('ffmpeg', [...args, ...out], { signal, timeoutMs: 30_000 });
}
