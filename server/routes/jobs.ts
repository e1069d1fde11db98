import { z } from 'zod';
import { joinSteps } from '@inkavo/core/model/grade';
import { deliveryRequest, jobSchema } from '@inkavo/core/model/job';
import { idSchema } from '@inkavo/core/model/outing';
import type { Api } from '../http/api';
import { HttpError } from '../http/problems';
import type { Parts } from '../parts';
import type { NewJob } from '../stores/jobs';

const one = z.object({ id: idSchema });

/** Deliveries and other long work: queue, stop, again, fetch, remove. */
export function jobRoutes(api: Api, { jobs, clips, outings, library, runner, events }: Parts): void {
  api.route(
    { method: 'get', path: '/jobs', summary: 'Exports, and intake under way', answers: { 200: z.array(jobSchema) } },
    async ({ answer }) => answer(200, await jobs.list()),
  );

  // The steps are taken as they are now: what was seen when it was queued is what comes out.
  api.route(
    {
      method: 'post',
      path: '/deliveries',
      summary: 'Queue exports of clips',
      body: deliveryRequest,
      answers: { 202: z.array(jobSchema) },
    },
    async ({ body: { clipIds, delivery }, answer }) => {
      const wanted: NewJob[] = [];
      for (const id of clipIds) {
        const clip = await clips.get(id);
        const [camera, outing] = [await outings.camera(clip.cameraId), await outings.get(clip.outingId)];
        wanted.push({
          payload: {
            kind: 'export',
            hash: clip.hash,
            steps: joinSteps(camera.steps, clip.steps, outing.steps, clip.overrides),
            delivery,
            inFrame: clip.inFrame,
            outFrame: clip.outFrame,
            ...(clip.retime ? { retime: clip.retime } : {}),
          },
          title: clip.name,
          outingId: clip.outingId,
          clipId: clip.id,
        });
      }
      const added = await jobs.addAll(wanted);
      for (const job of added) events.send({ type: 'job', job });
      runner.wake();
      answer(202, added);
    },
  );

  api.route(
    { method: 'post', path: '/jobs/{id}/stop', summary: 'Stop a job', params: one, answers: { 200: jobSchema } },
    async ({ params, answer }) => answer(200, await runner.stop(params.id)),
  );

  api.route(
    {
      method: 'post',
      path: '/jobs/{id}/again',
      summary: 'Try again what ended without success',
      params: one,
      answers: { 200: jobSchema },
    },
    async ({ params, answer }) => {
      const payload = await jobs.payload(params.id);
      const job = await jobs.again(params.id);
      if (payload.kind === 'proxy')
        for (const id of await clips.setProxy(payload.hash, 'waiting')) events.send({ type: 'outing', id });
      events.send({ type: 'job', job });
      runner.wake();
      answer(200, job);
    },
  );

  api.route(
    {
      method: 'delete',
      path: '/jobs/{id}',
      summary: 'Forget a job that ended without a file',
      params: one,
      answers: { 204: null },
    },
    async ({ params, answer }) => {
      const job = await jobs.get(params.id);
      if (job.state === 'waiting' || job.state === 'running')
        throw new HttpError(409, 'not-possible', 'Stop it first.');
      const payload = await jobs.payload(params.id);
      if (job.state === 'done' && job.file)
        throw new HttpError(
          409,
          'not-possible',
          'A finished file is removed so that it can be put back: use /removed.',
        );
      if (payload.kind === 'import' && payload.move) library.removeUpload(payload.from);
      await jobs.remove(job.id);
      answer(204);
    },
  );

  api.route(
    {
      method: 'get',
      path: '/jobs/{id}/file',
      summary: 'The file that an export made',
      params: one,
      answers: { 200: { type: 'application/octet-stream', holds: 'The file.' } },
    },
    async ({ params, res }) => {
      const job = await jobs.get(params.id);
      if (job.state !== 'done' || !job.file) throw new HttpError(404, 'not-found', 'This file is not finished.');
      res.download(library.export(job.file.name), job.file.name, { dotfiles: 'allow' });
    },
  );
}
