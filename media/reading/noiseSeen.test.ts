import type { Vec3 } from '@inkavo/core/colour/matrix';
import { luma709 } from '@inkavo/core/colour/ycbcr';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import type { PlanarFormat, PlanarPicture } from '@inkavo/core/program/cpu/planar';
import type { PredictedNoise } from '@inkavo/core/reading/noiseAfter';
import { proposeNoise } from '@inkavo/core/reading/proposeNoise';
import { emptyPicture, joinedPictures, noisyScene } from '../frames/noisyScene';
import { reducedOf } from '../frames/noise';
import { doTask, type Around } from './tasks';

const FORMATS: Record<string, PlanarFormat> = {
  '8 bit 4:2:0': format('420', 8),
  '10 bit 4:2:2': format('422', 10),
  '10 bit 4:4:4': format('444', 10),
};
function format(chroma: PlanarFormat['chroma'], depth: PlanarFormat['depth']): PlanarFormat {
  return { width: 320, height: 240, depth, chroma, range: 'limited', matrix: 'bt709', chromaSite: 'left' };
}

const GRADES: Record<string, Step[]> = {
  'no steps': [],
  'contrast, colour and red raised': [
    newStep('balance', 'b', { kelvin: 4200 }),
    newStep('range', 'r', { black: 0.1, white: 0.8 }),
    newStep('saturation', 's', { amount: 1.4 }),
  ],
  water: [newStep('water', 'w', { depth: 8, distance: 2 })],
};

const aroundOf = (noisy: readonly PlanarPicture[]): Around => ({
  stack: {
    format: noisy[0].format,
    frames: joinedPictures(noisy),
    order: noisy.map((_, k) => k),
    at: noisy.length >> 1,
  },
  seconds: 0,
});
const told = (around: Around, steps: Step[]): PredictedNoise | null =>
  doTask({ kind: 'noiseSeen', around, steps, luts: {} });

/** Actual noise after steps, where nothing is clipped: the difference of a noisy frame from a clean one. */
function truth(clean: PlanarPicture, noisy: PlanarPicture, steps: readonly Step[]): PredictedNoise {
  const graded = (p: PlanarPicture): Float32Array => pictureToRgb(bakeFor(compile(steps, 0), p, 65), p);
  const [a, b] = [graded(clean), graded(noisy)];
  const sums = { light: 0, colour: 0, red: 0, green: 0, blue: 0 };
  let count = 0;
  for (let o = 0; o < a.length; o += 3) {
    if ([0, 1, 2].some((c) => a[o + c] < 0.08 || a[o + c] > 0.92)) continue;
    const d = [0, 1, 2].map((c) => b[o + c] - a[o + c]) as Vec3;
    const light = luma709(...d);
    sums.light += light * light;
    for (const v of d) sums.colour += (v - light) ** 2;
    sums.red += d[0] ** 2;
    sums.green += d[1] ** 2;
    sums.blue += d[2] ** 2;
    count += 1;
  }
  expect(count).toBeGreaterThan(a.length / 30);
  return Object.fromEntries(
    Object.entries(sums).map(([k, v]) => [k, Math.sqrt(v / count)]),
  ) as unknown as PredictedNoise;
}

describe.each(Object.keys(FORMATS))('%s', (name) => {
  test.each(Object.keys(GRADES))('noise after steps is told to within a fifth: %s', (grade) => {
    const { clean, noisy } = noisyScene(FORMATS[name], 4);
    const said = told(aroundOf(noisy), GRADES[grade])!;
    const is = truth(clean[2], noisy[2], GRADES[grade]);
    const share = Object.fromEntries(Object.entries(is).map(([k, v]) => [k, said[k as keyof PredictedNoise] / v]));
    console.log(
      `${name}, ${grade}: ${Object.entries(share)
        .map(([k, v]) => `${k} ${v.toFixed(2)}`)
        .join(', ')} of the truth`,
    );
    for (const v of Object.values(share)) expect(Math.abs(v - 1)).toBeLessThan(0.2);
  });
});

test('what a step takes out over time is not told of: what is left is, nearly', () => {
  const format = FORMATS['8 bit 4:2:0'];
  const { clean, noisy } = noisyScene(format, 4);
  const around = aroundOf(noisy);
  const steps = [newStep('noise', 'n', { amount: 1 })];
  const said = told(around, steps)!;
  const reduced = reducedOf({ kind: 'noise', ...around.stack, amounts: { luma: 1, chroma: 1 } });
  const is = truth(clean[2], reduced, []);
  console.log(`left: ${(255 * said.light).toFixed(2)} told, ${(255 * is.light).toFixed(2)} there`);
  expect(said.light / told(around, [])!.light).toBeCloseTo(0.447, 2);
  expect(Math.abs(said.light / is.light - 1)).toBeLessThan(0.2);
});

test('without a frame beside it, or in a picture too small, nothing is told', () => {
  const { noisy } = noisyScene(FORMATS['8 bit 4:2:0'], 4, 1);
  expect(told(aroundOf(noisy), [])).toBeNull();
  const small = noisyScene({ ...FORMATS['8 bit 4:2:0'], width: 40, height: 20 }, 4).noisy;
  expect(told(aroundOf(small), [])).toBeNull();
});

test('taking it out is offered where it is plainly seen, by numbers; what nobody sees is not spoken of', () => {
  const seenOf = (deviation: number): PredictedNoise =>
    told(aroundOf(noisyScene(FORMATS['8 bit 4:2:0'], deviation).noisy), [])!;
  const offered = proposeNoise(seenOf(8), true)!;
  expect(offered.step).toMatchObject({ kind: 'noise', params: { amount: 1 } });
  expect(offered.reason).toMatch(/^Noise of \d+\.\d of 255 in the light and \d+\.\d in the colour after these steps\./);
  expect(proposeNoise({ light: 0.008, colour: 0.0302, red: 0.05, green: 0.01, blue: 0.02 }, false)!.reason).toMatch(
    /^Noise of 2\.0 of 255 in the light and 7\.7 in the colour, 12\.8 in red\./,
  );
  expect(proposeNoise(seenOf(1), false)).toBeNull();
});

test('a picture without noise has none', () => {
  const format = FORMATS['8 bit 4:2:0'];
  const still = [0, 1, 2].map(() => {
    const p = emptyPicture(format);
    p.y.fill(100);
    p.cb.fill(128);
    p.cr.fill(128);
    return p;
  });
  const said = told(aroundOf(still), [])!;
  expect(Math.max(said.light, said.colour)).toBeLessThan(0.2 / 255);
});
