import { existsSync } from 'node:fs';
import { Router } from 'express';
import { writeClf } from '@inkavo/core/formats/clf/write';
import { writeCube } from '@inkavo/core/formats/cube';
import { gradeToClf, gradeToLut } from '@inkavo/core/formats/gradeLut';
import { newStep } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import type { Parts } from '../parts';

/** Name and day of the made-up outing. */
export const DEMO_OUTING = { name: 'Saltmark survey', place: 'Estuary, east channel', date: '2031-06-14' };

/** Two made-up tables for the demo: a technical one, which converts the drone's profile, and a look. */
function demoLuts(): { name: string; text: string }[] {
  const log = PROFILES.find((p) => p.name === 'Drone log, 10 bit');
  const convert = [newStep('convert', 'a', { profile: log, rollOff: 0.85 })];
  const look = [
    newStep('bands', 'a', { shadowsCb: 0.015, highlightsCb: -0.02, highlightsCr: 0.015 }),
    newStep('range', 'b', { contrast: 1.06, soft: 0.05 }),
  ];
  return [
    { name: 'drone-log.cube', text: writeCube(gradeToLut(convert, 33, 'Drone log, 10 bit, to standard')) },
    { name: 'late-sun.clf', text: writeClf(gradeToClf(look, 17, 'Late sun')) },
  ];
}

/** The demo outing: made when it is not there yet. */
export function demoRoutes({ config, outings, luts }: Parts): Router {
  const routes = Router();
  routes.post('/demo', async (_req, res) => {
    const known = (await outings.list()).find((o) => o.name === DEMO_OUTING.name);
    const outing = known ?? (await outings.create(DEMO_OUTING));
    if (!known) for (const { name, text } of demoLuts()) await luts.add(text, name);
    res.status(known ? 200 : 201).json({ outing, card: existsSync(config.card) });
  });
  return routes;
}
