import { DECODE_LIMITS } from '../codec/probe';
import { glance } from '../codec/glance';
import { QUIET, run, SAFE_INPUT } from '../codec/run';

/** Encodes R'G'B' (0–1, clipped here) as PNG with 16 bits a channel. `rgb` holds width × height × 3 values. */
export async function encodePng16(rgb: Float32Array, width: number, height: number): Promise<Buffer> {
  const raw = Buffer.allocUnsafe(rgb.length * 2);
  for (let i = 0; i < rgb.length; i += 1)
    raw.writeUInt16LE(Math.round(Math.min(1, Math.max(0, rgb[i])) * 65535), i * 2);
  return encode(raw, 'rgb48le', width, height, ['-c:v', 'png', '-f', 'image2pipe']);
}

/** Encodes 8-bit R'G'B', three bytes a pixel, as JPEG, for thumbnails. */
export async function encodeJpeg(rgb: Uint8Array, width: number, height: number): Promise<Buffer> {
  return encode(rgb, 'rgb24', width, height, ['-c:v', 'mjpeg', '-q:v', '3', '-f', 'image2pipe']);
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

/** A frame from the middle of a file that is not in the library, as a JPEG so wide. */
export async function glancePicture(path: string, width: number, signal?: AbortSignal): Promise<Buffer> {
  const { seconds } = await glance(path, signal);
  const at = ['-ss', (seconds / 2).toFixed(3)];
  const args = [...QUIET, ...DECODE_LIMITS, ...SAFE_INPUT, ...at, '-i', path, '-map', '0:V:0', '-frames:v', '1'];
  const out = ['-vf', `scale=${width}:-2`, '-c:v', 'mjpeg', '-q:v', '4', '-f', 'image2pipe', '-'];
  return run('ffmpeg', [...args, ...out], { signal, timeoutMs: 30_000 });
}
