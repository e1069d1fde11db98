import { existsSync } from 'node:fs';
import { Router } from 'express';
import type { Parts } from '../parts';

/** Name and day of the made-up outing. */
export const DEMO_OUTING = { name: 'Saltmark survey', place: 'Estuary, east channel', date: '2031-06-14' };

/** The demo outing: made when it is not there yet. */
export function demoRoutes({ config, outings }: Parts): Router {
  const routes = Router();
  routes.post('/demo', async (_req, res) => {
    const known = (await outings.list()).find((o) => o.name === DEMO_OUTING.name);
    const outing = known ?? (await outings.create(DEMO_OUTING));
    res.status(known ? 200 : 201).json({ outing, card: existsSync(config.card) });
  });
  return routes;
}
