import { luma709 } from '../colour/ycbcr';
import { newStep, type Step } from '../model/grade';
import { compile } from '../program/compile';
import { through } from '../program/evaluate';
import type { Fault } from './correction';
import type { ClipFrame, Proposal } from './firstPass';
import type { NoiseCovariance } from './noise';
import { outcomeOf } from './outcome';
import { deepened, quietened, withShoulder } from './restrain';
import { asSteps, ADDED_SATURATION, LEAST_ADDED_SATURATION } from './stepsOf';

const [W, H] = [32, 18];
/**
 * A frame whose cells go uniformly from one encoded value to another, of one colour; with noise of a standard
 * deviation.
 */
function frame(from: number, to: number, colour: readonly number[], deviation: number): ClipFrame {
  const code = new Float32Array(3 * W * H);
  for (let i = 0; i < W * H; i += 1)
    for (let c = 0; c < 3; c += 1) code[3 * i + c] = (from + ((to - from) * i) / (W * H - 1)) * colour[c];
  const luma = new Float32Array(W * H).map((_, i) => luma709(code[3 * i], code[3 * i + 1], code[3 * i + 2]));
  const noise: NoiseCovariance = [0, 1, 2, 3, 4, 5, 6, 7, 8].map((k) => (k % 4 === 0 ? deviation ** 2 : 0));
  return { small: { width: W, height: H, cells: [W, H], code, luma }, seconds: 0, noise };
}
const GREY = [1, 1, 1];
const proposal = (step: Step): Proposal => ({ step, reason: '' });

test('darkest parts that haze steps leave lifted are taken some way down; white stays', () => {
  const haze = proposal(newStep('haze', 'h', { amount: 0 }));
  const list = deepened('haze', [frame(0.23, 0.8, GREY, 0)], [], [haze]);
  const range = list.find((p) => p.step.kind === 'range')!;
  expect(range.reason).toMatch(/^Black 6 % lower/);
  const run = through(compile(asSteps([range]), 0).ops);
  const after = (v: number): number => {
    const rgb: [number, number, number] = [v, v, v];
    run(rgb);
    return rgb[1];
  };
  // A quarter of the way to 0.03.
  expect(after(0.23)).toBeCloseTo(0.18, 2);
  expect(after(0.95)).toBeCloseTo(0.945, 2);
  // An exposure that was estimated stays, and both are reported.
  const up = proposal(newStep('range', 'first-range', { exposure: 0.2 }));
  const both = deepened('haze', [frame(0.23, 0.8, GREY, 0)], [], [haze, up]);
  expect(both).toHaveLength(2);
  expect(both[1].reason).toMatch(/^Up 0\.20 stops, .* Black \d % lower/);
});

test('a range that is made stands before saturation, as on the bench', () => {
  const list = ['haze', 'saturation'].map((kind) => proposal(newStep(kind, kind)));
  const kinds = deepened('haze', [frame(0.23, 0.8, GREY, 0)], [], list).map((p) => p.step.kind);
  expect(kinds).toEqual(['haze', 'range', 'saturation']);
});

test('a scene without dark parts is not taken for one with lifted ones', () => {
  const [range] = deepened('haze', [frame(0.6, 0.9, GREY, 0)], [], []);
  const rgb: [number, number, number] = [0.6, 0.6, 0.6];
  through(compile(asSteps([range]), 0).ops)(rgb);
  expect(rgb[1]).toBeCloseTo(0.54, 2);
});

/** A conversion that maps the recording's white, at 70 % here, to 108 %. */
const convert = proposal(
  newStep('convert', 'c', {
    profile: {
      name: 'Flat',
      transfer: {
        kind: 'logCamera',
        base: 10,
        logSideSlope: 0.37,
        logSideOffset: 0.68,
        linSideSlope: 1,
        linSideOffset: 0.03,
        linSideBreak: 0,
      },
      primaries: 'bt709',
    },
  }),
);

test('what a conversion brings beyond white rolls off there, or behind a balance at soft ends, and is not lost', () => {
  const frames = [frame(0.15, 0.7, GREY, 0)];
  const over = (list: Proposal[]): number => outcomeOf(frames, asSteps(list)).over;
  expect(over([convert])).toBeGreaterThan(0.01);
  const [rolled] = withShoulder(frames, [], [convert]);
  expect(rolled.step.params.rollOff).toBeLessThan(0.96);
  expect(rolled.reason).toMatch(/roll off from 9\d %/);
  expect(over([rolled])).toBe(0);
  const balance = proposal(newStep('balance', 'b', { method: 'gains', green: 1.05 }));
  const list = withShoulder(frames, [], [convert, balance, proposal(newStep('saturation', 's', { amount: 0.9 }))]);
  expect(list.map((p) => p.step.kind)).toEqual(['convert', 'balance', 'range', 'saturation']);
  expect(list[0]).toBe(convert);
  expect(list[2].reason).toMatch(/^Soft ends of \d+ %, so that no highlights are lost\.$/);
  expect(over(list)).toBe(0);
});

test('a conversion that clips nothing has no shoulder; nor has what is not converted', () => {
  const dim = [frame(0.15, 0.6, GREY, 0)];
  const list = [convert];
  expect(withShoulder(dim, [], list)).toBe(list);
  const up = [proposal(newStep('range', 'r', { exposure: 1 }))];
  expect(withShoulder([frame(0.1, 0.9, GREY, 0)], [], up)).toBe(up);
});

test('nothing is taken down where it is dark already, nor under water', () => {
  const list = [proposal(newStep('haze', 'h', { amount: 0 }))];
  expect(deepened('haze', [frame(0.02, 0.8, GREY, 0)], [], list)).toBe(list);
  expect(deepened('water', [frame(0.23, 0.8, GREY, 0)], [], list)).toBe(list);
});

const limited = (
  fault: Fault,
  frames: ClipFrame[],
  worked: (greyed: number) => Proposal[],
  hidden = false,
): Proposal[] => quietened(fault, frames, [], outcomeOf(frames, []), worked, hidden);

const BLUISH = [0.25, 0.7, 0.8];
const underWater = (greyed: number): Proposal[] => [
  proposal(newStep('water', 'w', { depth: 14, type: 'II', distanceFrom: 'value' })),
  proposal(newStep('saturation', 's', { amount: Math.exp(greyed) })),
];
const colourOf = (list: readonly Proposal[]): number =>
  Math.log(list.find((p) => p.step.kind === 'saturation')!.step.params.amount as number);

test('colour is added as far as noise bears it, and given up before red is held back', () => {
  const added = [0.0001, 0.008, 0.05].map((deviation) => {
    const list = limited('water', [frame(0.1, 0.9, BLUISH, deviation)], underWater);
    return { colour: colourOf(list), limit: list[0].step.params.limitRed as number };
  });
  // The noise level does not affect what it is multiplied by.
  expect(new Set(added.map(({ colour }) => colour)).size).toBe(1);
  expect(added[0].colour).toBeCloseTo(LEAST_ADDED_SATURATION.water);
  expect(added[0].limit).toBeLessThan(5);
  // Hardly any red is missing: nothing is restored.
  const shallow = (greyed: number): Proposal[] => [
    proposal(newStep('water', 'w', { depth: 0.5, type: 'I', distanceFrom: 'value' })),
    underWater(greyed)[1],
  ];
  expect(colourOf(limited('water', [frame(0.1, 0.8, GREY, 0.004)], shallow))).toBeCloseTo(ADDED_SATURATION.water);
});

test('what a flat recording hid gets no colour added; what would be lost beyond white or black, none either', () => {
  const white = (greyed: number): Proposal[] => [proposal(newStep('saturation', 's', { amount: Math.exp(greyed) }))];
  const clean = [frame(0.1, 0.7, [1, 0.9, 0.8], 0)];
  expect(colourOf(limited('haze', clean, white))).toBeCloseTo(ADDED_SATURATION.haze);
  expect(colourOf(limited('haze', clean, white, true))).toBeCloseTo(LEAST_ADDED_SATURATION.haze);
  const bright = [frame(0.9, 0.99, [1, 0.7, 0.4], 0)];
  expect(colourOf(limited('haze', bright, white))).toBeCloseTo(LEAST_ADDED_SATURATION.haze);
  const leaves = [frame(0.02, 0.3, [0.5, 1, 0.02], 0)];
  expect(colourOf(limited('haze', leaves, white))).toBeCloseTo(LEAST_ADDED_SATURATION.haze);
});
