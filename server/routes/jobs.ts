import { rmSync } from 'node:fs';
import { Router } from 'express';
import { joinSteps } from '@inkavo/core/model/grade';
import { deliveryRequest } from '@inkavo/core/model/job';
import { check, HttpError } from '../http';
import type { Parts } from '../parts';

/** Deliveries and other long work: queue, stop, again, fetch, remove. */
export function jobRoutes({ jobs, clips, outings, library, runner, events }: Parts): Router {
  const routes = Router();

  routes.get('/jobs', async (_req, res) => {
    res.json(await jobs.list());
  });

  // The steps are taken as they are now: what was seen when it was queued is what comes out.
  routes.post('/deliveries', async (req, res) => {
    const { clipIds, delivery } = check(deliveryRequest, req.body);
    const added = [];
    for (const id of clipIds) {
      const clip = await clips.get(id);
      const [camera, outing] = [await outings.camera(clip.cameraId), await outings.get(clip.outingId)];
      const job = await jobs.add({
        payload: {
          kind: 'export',
          hash: clip.hash,
          steps: joinSteps(camera.steps, clip.steps, outing.steps, clip.overrides),
          delivery,
          inFrame: clip.inFrame,
          outFrame: clip.outFrame,
        },
        title: clip.name,
        outingId: clip.outingId,
        clipId: clip.id,
        fileStem: clip.name,
      });
      events.send({ type: 'job', job });
      added.push(job);
    }
    runner.wake();
    res.status(202).json(added);
  });

  routes.post('/jobs/:id/stop', async (req, res) => {
    res.json(await runner.stop(req.params.id));
  });

  routes.post('/jobs/:id/again', async (req, res) => {
    const job = await jobs.again(req.params.id);
    events.send({ type: 'job', job });
    runner.wake();
    res.json(job);
  });

  routes.delete('/jobs/:id', async (req, res) => {
    const job = await jobs.get(req.params.id);
    if (job.state === 'waiting' || job.state === 'running') throw new HttpError(409, 'Stop it first.');
    if (job.file) rmSync(library.export(job.file.name), { force: true });
    await jobs.remove(job.id);
    res.status(204).end();
  });

  routes.get('/jobs/:id/file', async (req, res) => {
    const job = await jobs.get(req.params.id);
    if (job.state !== 'done' || !job.file) throw new HttpError(404, 'This file is not finished.');
    res.download(library.export(job.file.name), job.file.name, { dotfiles: 'allow' });
  });
  return routes;
}
