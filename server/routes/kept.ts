import { z } from 'zod';
import { secondsOf } from '@inkavo/core/model/facts';
import { keptPatch, keptRequest, keptSchema, keptWholeSchema } from '@inkavo/core/model/kept';
import { idSchema } from '@inkavo/core/model/outing';
import type { Api } from '../http/api';
import { requireFrame, unlessGone } from '../http/problems';
import type { Parts } from '../parts';

const one = z.object({ id: idSchema });
const pictureQuery = z.object({ width: z.coerce.number().int().min(16).max(1280).default(640) });

/** Kept frames: list, keep, rename, show. */
export function keptRoutes(api: Api, { kept, clips, shelf, library, frames, events }: Parts): void {
  const changed = async (clipId: string): Promise<void> => {
    const { outingId } = await clips.get(clipId);
    events.send({ type: 'kept', outingId });
  };
  api.route(
    {
      method: 'get',
      path: '/outings/{id}/kept',
      summary: 'Kept frames of the clips of an outing, newest first',
      params: one,
      answers: { 200: z.array(keptSchema) },
    },
    async ({ params, answer }) => answer(200, await kept.ofOuting(params.id)),
  );
  api.route(
    {
      method: 'post',
      path: '/clips/{id}/kept',
      summary: 'Keep a frame with its grade',
      params: one,
      body: keptRequest,
      answers: { 201: keptWholeSchema },
    },
    async ({ params, body, answer }) => {
      const clip = await clips.get(params.id);
      requireFrame(clip, body.frame);
      await shelf.check([...body.steps, ...body.own]);
      answer(201, await kept.add(clip.id, body));
      await changed(clip.id);
    },
  );
  api.route(
    {
      method: 'get',
      path: '/kept/{id}',
      summary: 'A kept frame with its steps',
      params: one,
      answers: { 200: keptWholeSchema },
    },
    async ({ params, answer }) => answer(200, await kept.get(params.id)),
  );
  api.route(
    {
      method: 'patch',
      path: '/kept/{id}',
      summary: 'Rename a kept frame',
      params: one,
      body: keptPatch,
      answers: { 200: keptWholeSchema },
    },
    async ({ params, body, answer }) => {
      const renamed = await kept.rename(params.id, body.name);
      answer(200, renamed);
      await changed(renamed.clipId);
    },
  );
  api.route(
    {
      method: 'get',
      path: '/kept/{id}/picture.jpg',
      summary: 'The picture of a kept frame, through its grade',
      params: one,
      query: pictureQuery,
      answers: { 200: { type: 'image/jpeg', holds: 'A picture.' } },
    },
    async ({ params, query: { width }, res }) => {
      const { clipId, frame, steps } = await kept.get(params.id);
      const clip = await clips.get(clipId);
      const source = await clips.source(clip, library.original(clip.hash));
      const grade = { steps, luts: await shelf.textsFor(steps), seconds: secondsOf(clip.facts, frame) };
      await unlessGone(res, async (signal) => {
        const jpeg = await frames.thumb({ hash: clip.hash, source, frame, width }, grade, signal);
        // A kept frame never changes.
        res.set('Cache-Control', 'private, max-age=31536000, immutable').type('jpeg').send(jpeg);
      });
    },
  );
}
