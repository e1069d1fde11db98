import { writeClf } from '@inkavo/core/formats/clf/write';
import { writeCube } from '@inkavo/core/formats/cube';
import { gradeToClf, gradeToLut } from '@inkavo/core/formats/gradeLut';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import { DIVE_OFFSET } from '@inkavo/demo/catalogue';

/** Name and day of the made-up outing. */
export const DEMO_OUTING = { name: 'Saltmark survey', place: 'Estuary, east channel', date: '2031-06-14' };

const profile = (name: string) => PROFILES.find((p) => p.name === name);

/** Two made-up tables for the demo: a technical one, which converts the drone's profile, and a look. */
export function demoLuts(): { name: string; text: string }[] {
  const convert = [newStep('convert', 'a', { profile: profile('Drone log, 10 bit'), rollOff: 0.85 })];
  const look = [
    newStep('bands', 'a', { shadowsCb: 0.015, highlightsCb: -0.02, highlightsCr: 0.015 }),
    newStep('range', 'b', { contrast: 1.06, soft: 0.05 }),
  ];
  return [
    { name: 'drone-log.cube', text: writeCube(gradeToLut(convert, 33, 'Drone log, 10 bit, to standard')) },
    { name: 'late-sun.clf', text: writeClf(gradeToClf(look, 17, 'Late sun')) },
  ];
}

/** What a clip of the demo begins with, by file: one is corrected already, one has its dive log. */
export const BEGINNINGS: Record<string, { steps?: Step[]; diveOffset?: number } | undefined> = {
  'paddle_out_07.mp4': {
    steps: [
      newStep('convert', 'convert', { profile: profile('Action camera flat'), rollOff: 0.85 }),
      newStep('balance', 'balance', { kelvin: 9600, duv: 0.006 }),
      newStep('range', 'range', { black: -0.03, soft: 0.05 }),
      newStep('saturation', 'saturation', { amount: 1.1 }),
    ],
  },
  'mooring_block_02.mp4': { diveOffset: DIVE_OFFSET },
};
