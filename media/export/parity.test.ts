import { STEP_KINDS, stepKind } from '@inkavo/core/steps';
import { PLACES, randomSteps } from '@inkavo/core/steps/randomSteps';
import { randomFrom } from '@inkavo/core/random';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { compile } from '@inkavo/core/program/compile';
import { bake, hold, lookUp } from '@inkavo/core/program/bake';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { bothRows, furthest } from './testRows';

const LUT = 'parity';
provideLut(
  LUT,
  `LUT_3D_SIZE 2\n${[0, 1, 2, 3, 4, 5, 6, 7].map((i) => `${0.9 * (i & 1)} ${0.45 * (i & 2)} ${0.2 * (i & 4) + 0.1}`).join('\n')}\n`,
);
/** Single against double precision: the limit of the hand-made grades in rowKernel.test.ts. */
const SEEDS = [101, 102, 103];
const CASES = STEP_KINDS.filter((k) => !k.ofSource).flatMap(({ kind }) =>
  PLACES.flatMap((place) => SEEDS.map((seed) => [kind, place, seed] as const)),
);

/** Neighbours are shares of the width apart: a small picture has none. */
const sizeFor = (kind: string): object => (stepKind(kind).spread ? { width: 1400, height: 24 } : {});

describe('random parameters of every kind, in every sort of place', () => {
  test.each(CASES)('%s, %s, seed %i: kernel and plain backend agree within 2e-5', (kind, place, seed) => {
    const { kernel, plain } = bothRows(randomSteps(kind, seed, place, LUT), 0.4, sizeFor(kind));
    expect(furthest(kernel, plain)).toBeLessThan(2e-5);
  });

  test.each(CASES)('%s, %s, seed %i: nodes of its tables are exact', (kind, place, seed) => {
    const program = compile(randomSteps(kind, seed, place, LUT), 0.4);
    const random = randomFrom(seed);
    for (const op of program.ops) {
      if (op.kind !== 'table') continue;
      const table = bake(op, 9);
      if (table.shaper) continue;
      const [low, high] = table.domain;
      for (let n = 0; n < 60; n += 1) {
        const at = [0, 1, 2].map(() => low + ((high - low) * Math.floor(9 * random())) / 8) as Vec3;
        const [exact, found] = [[...at] as Vec3, new Float32Array(3)];
        op.evaluate(exact);
        lookUp(table, at[0], at[1], at[2], found, 0);
        expect(furthest(exact.map(hold), found)).toBeLessThan(1e-5);
      }
    }
  });
});
