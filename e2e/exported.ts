import { join } from 'node:path';
import type { Job } from '@inkavo/core/model/job';
import type { Clip } from '@inkavo/core/model/outing';
import type { PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { sourceOf } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import type { TestApp } from './testApp';

/** A frame of a clip from a lossless export; the clip's in and out are set around that frame. */
export async function exportedFrame(
  { client, data }: TestApp,
  clip: Clip,
  frame = clip.referenceFrame,
): Promise<PlanarPicture> {
  await client.ask('PATCH', `/clips/${clip.id}`, { inFrame: frame, outFrame: frame + 1 });
  const [job] = await client.post<Job[]>('/deliveries', { clipIds: [clip.id], delivery: { codec: 'ffv1' } });
  await until(
    () => client.get<Job[]>('/jobs'),
    (jobs) => jobs.find((j) => j.id === job.id)!.state === 'done',
  );
  return decodeFrame(await sourceOf(join(data, 'exports', job.file!.name)), 0);
}

/** Share of a part's pixels whose luma, from the screen's own 8-bit values, differs from the file's by more than 1. */
export function lumaOff(
  { y: luma, format }: PlanarPicture,
  rgb: Uint8Array,
  { left, top, width, height }: { left: number; top: number; width: number; height: number },
): number {
  let off = 0;
  for (let i = 0; i < width * height; i += 1) {
    const [r, g, b] = [0, 1, 2].map((c) => rgb[3 * i + c] / 255);
    const shown = 16 + 219 * (0.2126 * r + 0.7152 * g + 0.0722 * b);
    const from = (top + Math.floor(i / width)) * format.width + left + (i % width);
    if (Math.abs(shown - luma[from] / 2 ** (format.depth - 8)) > 1.5) off += 1;
  }
  return off / (width * height);
}
