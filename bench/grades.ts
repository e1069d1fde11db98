import { newStep, type Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';

/** A grade as a person makes one, with twelve steps or the first few of them. */
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

export const ms = (from: number): number => performance.now() - from;
/** The middle one of several measurements. */
export const median = (values: number[]): number => values.toSorted((a, b) => a - b)[Math.floor(values.length / 2)];
