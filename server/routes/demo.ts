import { existsSync } from 'node:fs';
import { z } from 'zod';
import { writeClf } from '@inkavo/core/formats/clf/write';
import { writeCube } from '@inkavo/core/formats/cube';
import { gradeToClf, gradeToLut } from '@inkavo/core/formats/gradeLut';
import { newStep } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import { outingSchema } from '@inkavo/core/model/outing';
import type { Api } from '../http/api';
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

const opened = z.object({ outing: outingSchema, card: z.boolean() });

/** The demo outing: made when it is not there yet. */
export function demoRoutes(api: Api, { config, outings, luts }: Parts): void {
  api.route(
    { method: 'post', path: '/demo', summary: 'The demo outing', answers: { 200: opened, 201: opened } },
    async ({ answer }) => {
      const known = (await outings.list()).find((o) => o.name === DEMO_OUTING.name);
      const outing = known ? await outings.get(known.id) : await outings.create(DEMO_OUTING);
      if (!known) for (const { name, text } of demoLuts()) await luts.add(text, name);
      answer(known ? 200 : 201, { outing, card: existsSync(config.card) });
    },
  );
}
