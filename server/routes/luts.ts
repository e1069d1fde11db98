import { Router, text } from 'express';
import { z } from 'zod';
import { check } from '../http';
import type { Parts } from '../parts';

const addQuery = z.object({ name: z.string().max(200).default('LUT') });
const YEAR = 31_536_000;

/** Look-up tables: list, bring in, fetch. */
export function lutRoutes({ luts, events }: Parts): Router {
  const routes = Router();
  routes.get('/', async (_req, res) => {
    res.json(await luts.list());
  });
  routes.post('/', text({ type: () => true, limit: '96mb' }), async (req, res) => {
    const { name } = check(addQuery, req.query);
    const entry = await luts.add(typeof req.body === 'string' ? req.body : '', name);
    events.send({ type: 'luts' });
    res.status(201).json(entry);
  });
  routes.get('/:id', async (req, res) => {
    const body = await luts.text(req.params.id);
    res.set('Cache-Control', `private, max-age=${YEAR}, immutable`).type('text/plain').send(body);
  });
  return routes;
}
