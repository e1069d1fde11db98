import { writeClf } from '@inkavo/core/formats/clf/write';
import { writeCube } from '@inkavo/core/formats/cube';
import { gradeToClf, gradeToLut } from '@inkavo/core/formats/gradeLut';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import type { LutRole, ShelfRequest } from '@inkavo/core/model/shelf';
import { DIVE_OFFSET } from '@inkavo/demo/catalogue';

/** Name and day of the made-up outing. */
export const DEMO_OUTING = { name: 'Saltmark survey', place: 'Estuary, east channel', date: '2031-06-14' };

const profile = (name: string) => PROFILES.find((p) => p.name === name);

/** Made-up tables for the demo: a technical one that converts the drone's profile, and looks. */
export function demoLuts(): { name: string; text: string; group: string; role: LutRole }[] {
  const convert = [newStep('convert', 'a', { profile: profile('Drone log, 10 bit'), rollOff: 0.85 })];
  const lateSun = [
    newStep('bands', 'a', { shadowsCb: 0.015, highlightsCb: -0.02, highlightsCr: 0.015 }),
    newStep('range', 'b', { contrast: 1.06, soft: 0.05 }),
  ];
  const coldMorning = [
    newStep('balance', 'a', { kelvin: 5600 }),
    newStep('bands', 'b', { shadowsCb: 0.02, midtonesCr: -0.008 }),
    newStep('saturation', 'c', { amount: 0.85 }),
  ];
  const faded = [
    newStep('range', 'a', { black: 0.05, contrast: 0.88, soft: 0.08 }),
    newStep('saturation', 'b', { amount: 0.75 }),
  ];
  const looks = { role: 'look', group: 'Looks' } as const;
  return [
    {
      name: 'drone-log.cube',
      text: writeCube(gradeToLut(convert, 33, 'Drone log, 10 bit, to standard')),
      group: 'Conversions',
      role: 'technical',
    },
    { name: 'late-sun.clf', text: writeClf(gradeToClf(lateSun, 17, 'Late sun')), ...looks },
    { name: 'cold-morning.cube', text: writeCube(gradeToLut(coldMorning, 17, 'Cold morning')), ...looks },
    { name: 'faded.cube', text: writeCube(gradeToLut(faded, 17, 'Faded')), ...looks },
  ];
}

/** Made-up recipes for the demo. */
export const DEMO_RECIPES: readonly ShelfRequest[] = [
  {
    kind: 'recipe',
    title: 'Grey day, lifted',
    group: 'Weather',
    note: 'More contrast and weak colours up, for flat light.',
    steps: [
      newStep('range', 'range', { contrast: 1.18, black: -0.02, soft: 0.06 }),
      newStep('saturation', 'saturation', { amount: 1.15 }),
    ],
  },
  {
    kind: 'recipe',
    title: 'Evening, warm',
    group: 'Weather',
    note: 'Warmer light, cool shadows.',
    steps: [
      newStep('balance', 'balance', { kelvin: 7400 }),
      newStep('bands', 'bands', { shadowsCb: 0.012, highlightsCb: -0.015, highlightsCr: 0.01 }),
    ],
  },
  {
    kind: 'recipe',
    title: 'Black and white',
    group: 'Reports',
    note: 'For print: no colour, firm contrast.',
    steps: [
      newStep('range', 'range', { contrast: 1.25, soft: 0.08 }),
      newStep('saturation', 'saturation', { amount: 0 }),
    ],
  },
];

/** Initial state of a clip of the demo, by file: one is already corrected, one has a dive log. */
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
