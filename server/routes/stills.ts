import { once } from 'node:events';
import { z } from 'zod';
import { secondsOf } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import { idSchema, type Clip } from '@inkavo/core/model/outing';
import { sourceNoise } from '@inkavo/core/program/source';
import { noiseTask } from '@inkavo/media/frames/noise';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { encodeStill, STILL_FORMS, type StillForm } from '@inkavo/media/frames/still';
import { inThread } from '@inkavo/media/threads/pool';
import { ZipFile } from 'yazl';
import { wholeClip } from '../deliveries';
import type { Api } from '../http/api';
import { requireFrame, unlessGone } from '../http/problems';
import type { Parts } from '../parts';
import { fileStem } from '../stores/jobs';

const quality = z.coerce.number().int().min(1).max(100).default(92);
const TYPES: Record<StillForm, string> = { png: 'image/png', tiff: 'image/tiff', jpg: 'image/jpeg' };

/** Single frames at the file's size, graded like an export. */
export function stillRoutes(api: Api, parts: Parts): void {
  const { clips, kept, shelf, library } = parts;

  async function still(
    clip: Clip,
    { frame, steps, form, quality }: { frame: number; steps: Step[]; form: StillForm; quality: number },
    signal: AbortSignal,
  ): Promise<Buffer> {
    requireFrame(clip, frame);
    const source = await clips.source(clip, library.original(clip.hash));
    const seconds = secondsOf(clip.facts, frame);
    const noise = sourceNoise(steps, seconds);
    const picture = noise
      ? await inThread(await noiseTask(source, frame, noise, signal), { signal })
      : await decodeFrame(source, frame, signal);
    const { width, height } = picture.format;
    const grade = { steps, luts: await shelf.textsFor(steps), seconds };
    const rgb = await inThread({ kind: 'still', picture, ...grade }, { signal });
    return encodeStill(rgb, width, height, { form, quality });
  }

  api.route(
    {
      method: 'get',
      path: '/clips/{id}/still',
      summary: 'A frame at the size of the file: PNG or TIFF of 16 bits a channel, or JPEG',
      params: z.object({ id: idSchema }),
      query: z.object({
        frame: z.coerce.number().int().nonnegative(),
        form: z.enum(STILL_FORMS).default('png'),
        quality,
        graded: z.enum(['0', '1']).default('1'),
      }),
      answers: { 200: { type: 'image/png', holds: 'The frame.' } },
    },
    ({ params, query: { frame, form, quality, graded }, res }) =>
      unlessGone(res, async (signal) => {
        const { clip, steps } = await wholeClip(parts, params.id);
        const bytes = await still(clip, { frame, form, quality, steps: graded === '1' ? steps : [] }, signal);
        res
          .attachment(`${fileStem(clip.name)}, frame ${frame}.${form}`)
          .type(TYPES[form])
          .send(bytes);
      }),
  );

  api.route(
    {
      method: 'get',
      path: '/kept/stills.zip',
      summary: 'Kept frames with their grades at the size of their files, as one archive',
      query: z.object({ ids: z.string().min(1).max(40_000), form: z.enum(STILL_FORMS).default('png'), quality }),
      answers: { 200: { type: 'application/zip', holds: 'The frames.' } },
    },
    ({ query, res }) =>
      unlessGone(res, async (signal) => {
        const found = await Promise.all(query.ids.split(',').map((id) => kept.get(id)));
        const zip = new ZipFile();
        res.attachment('kept frames.zip').type('zip');
        zip.outputStream.pipe(res);
        // One at a time: a large frame takes much memory.
        for (const [k, { clipId, frame, steps, name }] of found.entries()) {
          const bytes = await still(await clips.get(clipId), { ...query, frame, steps }, signal);
          zip.addBuffer(bytes, `${k + 1} ${fileStem(name)}.${query.form}`, { compress: false });
        }
        zip.end();
        await once(res, 'close');
      }),
  );
}
