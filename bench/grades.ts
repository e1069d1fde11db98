import { newStep, type Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import { shapeSchema, type Shape } from '@inkavo/core/regions/shape';

/** A typical grade with twelve steps, or the first few of them. */
export const TWELVE: Step[] = [
  newStep('convert', 's1', { profile: PROFILES.find((p) => p.name === 'Drone log, 10 bit'), rollOff: 0.85 }),
  newStep('balance', 's2', { kelvin: 5316, duv: 0.0085 }),
  newStep('range', 's3', { black: -0.1, soft: 0.04 }),
  newStep('saturation', 's4', { amount: 1.1, weak: 0.2 }),
  ...Array.from({ length: 4 }, (_, i) => [
    newStep('range', `r${i}`, { contrast: 1.01, mid: 0.002 * (i + 1) }),
    newStep('saturation', `t${i}`, { amount: 1.01 }),
  ]).flat(),
];
export const EIGHT = TWELVE.slice(0, 8);
export const ONE = TWELVE.slice(0, 1);

const shape = (kind: Shape['kind'], from: object, to: object): Shape =>
  shapeSchema.parse({
    id: kind,
    kind,
    keys: [
      { seconds: 0, ...from },
      { seconds: 8, ...from, ...to },
    ],
  });
const region = (id: string, part: object): Step => newStep('region', id, part as Record<string, unknown>);
const within = (step: Step, id: string): Step => ({ ...step, id: `${step.id}-${id}`, region: id });
const OVAL = shape('ellipse', { x: 0.4, y: 0.25, width: 0.4, height: 0.3, feather: 0.1 }, { x: 0.6, turn: 30 });

/** The eight steps, and one more in a moving region. */
export const ONE_REGION: Step[] = [
  region('oval', { shapes: [OVAL] }),
  ...EIGHT,
  within(newStep('range', 'there', { exposure: 0.4 }), 'oval'),
];
/** The eight steps and water, and steps in three moving regions, one with a matte. */
export const THREE_REGIONS: Step[] = [
  region('oval', { shapes: [OVAL] }),
  region('sky', {
    shapes: [shape('gradient', { x: 0.5, y: 0.2, turn: 90, feather: 0.2 }, { y: 0.3 })],
    matte: { lightness: { low: 0.4, high: 1, soft: 0.2 } },
  }),
  region('board', { shapes: [shape('rectangle', { x: 0.7, y: 0.4, width: 0.2, height: 0.2 }, { x: 0.5 })] }),
  EIGHT[0],
  newStep('water', 'water', { depth: 5, veilRed: 0.1, veilGreen: 0.35, veilBlue: 0.4 }),
  ...EIGHT.slice(1),
  within(newStep('range', 'there', { exposure: 0.4 }), 'oval'),
  within(newStep('saturation', 'there', { amount: 1.3 }), 'sky'),
  within(newStep('balance', 'there', { kelvin: 5200 }), 'board'),
];

export const ms = (from: number): number => performance.now() - from;
/** The median of several measurements. */
export const median = (values: number[]): number => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];
