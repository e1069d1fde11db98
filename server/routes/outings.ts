import { z } from 'zod';
import { jobSchema } from '@inkavo/core/model/job';
import {
  cameraPatch,
  cameraRequest,
  cameraSchema,
  idSchema,
  listedClipSchema,
  outingPatch,
  outingRequest,
  outingSchema,
  stepClipsSchema,
} from '@inkavo/core/model/outing';
import { checkMatch, etagOf, type Api } from '../http/api';
import type { Parts } from '../parts';

const one = z.object({ id: idSchema });
const listed = outingSchema.extend({
  clipCount: z.number().int(),
  /** The clips whose frames represent it. */
  clips: z.array(listedClipSchema.pick({ id: true, look: true, referenceFrame: true })),
});
const opened = z.object({
  outing: outingSchema,
  cameras: z.array(cameraSchema),
  clips: z.array(listedClipSchema),
  /** Files being imported, and those that failed. */
  intake: z.array(jobSchema),
});

/** Outings and their cameras: list, create, open, change. */
export function outingRoutes(api: Api, { outings, clips, changes, thumbs, jobs, events, runner }: Parts): void {
  api.route(
    { method: 'get', path: '/outings', summary: 'All outings, newest first', answers: { 200: z.array(listed) } },
    async ({ answer }) => answer(200, await outings.list()),
  );
  api.route(
    {
      method: 'post',
      path: '/outings',
      summary: 'Make an outing',
      body: outingRequest,
      answers: { 201: outingSchema },
    },
    async ({ body, answer }) => answer(201, await outings.create(body)),
  );
  api.route(
    {
      method: 'get',
      path: '/outings/{id}',
      summary: 'An outing with all in it',
      params: one,
      answers: { 200: opened },
    },
    async ({ params, res, answer }) => {
      const outing = await outings.get(params.id);
      const [cameras, own, intake] = await Promise.all([
        outings.cameras(outing.id),
        clips.ofOuting(outing.id),
        jobs.ofOuting(outing.id),
      ]);
      res.set('ETag', etagOf(outing));
      answer(200, { outing, cameras, clips: own, intake: runner.withTimes(intake) });
    },
  );
  api.route(
    {
      method: 'patch',
      path: '/outings/{id}',
      summary: 'Change name, place or day',
      params: one,
      body: outingPatch,
      answers: { 200: outingSchema },
    },
    async ({ params, body, req, answer }) => {
      checkMatch(req, await outings.get(params.id));
      answer(200, await outings.update(params.id, body));
      events.send({ type: 'outing', id: params.id });
    },
  );
  api.route(
    {
      method: 'post',
      path: '/outings/{id}/cameras',
      summary: 'Make a camera',
      params: one,
      body: cameraRequest,
      answers: { 201: cameraSchema },
    },
    async ({ params, body, answer }) => {
      answer(201, await outings.addCamera(params.id, body));
      events.send({ type: 'outing', id: params.id });
    },
  );
  api.route(
    {
      method: 'patch',
      path: '/cameras/{id}',
      summary: 'Change what is known of a camera',
      params: one,
      body: cameraPatch,
      answers: { 200: cameraSchema },
    },
    async ({ params, body, req, answer }) => {
      checkMatch(req, await outings.camera(params.id));
      const camera = await outings.updateCamera(params.id, body);
      answer(200, camera);
      events.send({ type: 'outing', id: camera.outingId });
    },
  );

  const stepOf = z.object({
    owner: z.enum(['camera', 'outing']),
    id: idSchema,
    step: z.string().regex(/^[\w-]{1,64}$/),
  });
  api.route(
    {
      method: 'get',
      path: '/shared/{owner}/{id}/steps/{step}/clips',
      summary: 'In which clips a step of a camera or an outing acts',
      params: stepOf,
      answers: { 200: stepClipsSchema },
    },
    async ({ params: { owner, id, step }, answer }) => answer(200, await changes.stepClips(owner, id, step)),
  );
  api.route(
    {
      method: 'put',
      path: '/shared/{owner}/{id}/steps/{step}/clips',
      summary: 'Limit a step of a camera or an outing to clips, or let it act in all',
      params: stepOf,
      body: stepClipsSchema,
      answers: { 200: stepClipsSchema },
    },
    async ({ params: { owner, id, step }, body, answer }) => {
      const touched = await changes.limit(owner, id, step, body);
      answer(200, await changes.stepClips(owner, id, step));
      const outingId = owner === 'outing' ? id : (await outings.camera(id)).outingId;
      if (touched.length) events.send({ type: 'clip', id: touched[0], outingId, shared: true });
      thumbs.makeAhead(outingId);
    },
  );
}
