import type { Vec3 } from '../colour/matrix';
import type { SmallPicture } from '../fields/smallPicture';
import { newStep, type Step } from '../model/grade';
import { randomFrom } from '../random';
import { ALL_KINDS } from '../steps';
import { provideLut } from '../steps/lut/library';
import { PLACES, randomSteps } from '../steps/randomSteps';
import { changesOverTime, compile } from './compile';
import { through } from './evaluate';
import { planesOf, smallValues } from './planes';
import { stepsAt } from './stepsAt';

const LUT = 'standing';
const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((i) => [(i & 1) * 0.9, (i >> 1) & 1, i >> 2].join(' '));
provideLut(LUT, ['LUT_3D_SIZE 2', ...corners].join('\n'));

const KINDS = ALL_KINDS.filter((k) => k.kind !== 'region' && !k.ofSource).map((k) => k.kind);

const [WIDTH, HEIGHT] = [24, 14];
const random = randomFrom(5);
const code = Float32Array.from({ length: WIDTH * HEIGHT * 3 }, () => 0.1 + 0.8 * random());
const luma = Float32Array.from(
  { length: WIDTH * HEIGHT },
  (_, i) => (code[3 * i] + code[3 * i + 1] + code[3 * i + 2]) / 3,
);
const small: SmallPicture = { width: WIDTH, height: HEIGHT, cells: [WIDTH, HEIGHT], code, luma };

/** A small picture through the grade, with its planes. */
function outcome(steps: readonly Step[], seconds: number): number[] {
  const program = compile(steps, seconds);
  const planes = planesOf(program, small).map((plane) => plane && smallValues(plane, small));
  const run = through(program.ops);
  return Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
    const rgb: Vec3 = [code[3 * i], code[3 * i + 1], code[3 * i + 2]];
    run(
      rgb,
      planes.map((values) => values?.[i] ?? 0),
    );
    return rgb;
  }).flat();
}

test.each(KINDS)('%s: a grade as it stands at a time does what the whole one does then', (kind) => {
  for (const place of PLACES)
    for (const seed of [1, 2]) {
      const steps = randomSteps(kind, seed, place, LUT);
      for (const seconds of [0, 0.37, 1.6]) {
        const standing = stepsAt(steps, seconds);
        expect(changesOverTime(standing)).toBe(false);
        expect(outcome(standing, seconds)).toEqual(outcome(steps, seconds));
      }
    }
});

test('what follows something for minutes is small at one time; a step that does not change stays itself', () => {
  const keys = Array.from({ length: 3000 }, (_, i) => ({ seconds: i / 30, x: 0.3 + 0.1 * Math.sin(i), y: 0.3 }));
  const still = newStep('saturation', 's', { amount: 1.2 });
  const steps = [newStep('region', 'r', { shapes: [{ id: 'e', kind: 'ellipse', keys }] }), still];
  const standing = stepsAt(steps, 1700 / 30);
  // Parameters missing from keys are filled in.
  expect(standing[0].params).toMatchObject({ shapes: [{ keys: [{ width: 0.3, turn: 0, feather: 0.05, y: 0.3 }] }] });
  expect(JSON.stringify(standing).length).toBeLessThan(JSON.stringify(steps).length / 400);
  expect(standing[1]).toBe(still);
  expect(stepsAt(standing, 3)).toEqual(standing);
});
