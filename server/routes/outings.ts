import { Router } from 'express';
import { cameraPatch, outingPatch, outingRequest } from '@inkavo/core/model/outing';
import { check } from '../http';
import type { Parts } from '../parts';

/** Outings: list, make, open, change. */
export function outingRoutes({ outings, clips, jobs }: Parts): Router {
  const routes = Router();
  routes.get('/', async (_req, res) => {
    res.json(await outings.list());
  });
  routes.post('/', async (req, res) => {
    res.status(201).json(await outings.create(check(outingRequest, req.body)));
  });
  routes.get('/:id', async (req, res) => {
    const outing = await outings.get(req.params.id);
    const [cameras, own, intake] = await Promise.all([
      outings.cameras(outing.id),
      clips.ofOuting(outing.id),
      jobs.ofOuting(outing.id),
    ]);
    res.json({ outing, cameras, clips: own, intake });
  });
  routes.patch('/:id', async (req, res) => {
    res.json(await outings.update(req.params.id, check(outingPatch, req.body)));
  });
  return routes;
}

/** Cameras: change what is known of them. */
export function cameraRoutes({ outings }: Parts): Router {
  const routes = Router();
  routes.patch('/:id', async (req, res) => {
    res.json(await outings.updateCamera(req.params.id, check(cameraPatch, req.body)));
  });
  return routes;
}
