import { join } from 'node:path';
import type { Job } from '@inkavo/core/model/job';
import type { Clip } from '@inkavo/core/model/outing';
import type { PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { sourceOf } from '@inkavo/media/testClips';
import { until } from '@inkavo/server/testServer';
import type { House } from './house';

/** A frame of a clip as an export without loss holds it; the clip's in and out are about that frame afterwards. */
export async function exportedFrame(
  { client, data }: House,
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
