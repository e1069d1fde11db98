import type { Vec3 } from '@inkavo/core/colour/matrix';
import { bt709 } from '@inkavo/core/colour/transfer';
import { LUMA } from '@inkavo/core/colour/ycbcr';
import { shrink } from '@inkavo/core/fields/smallPicture';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { mapsOf, mapValues } from '@inkavo/core/program/maps';
import { firstPass } from '@inkavo/core/reading/firstPass';
import { meanOfArea } from '@inkavo/core/scopes/sampleArea';
import { neutralise } from '@inkavo/core/steps/balance/pick';
import { fitNeutral } from '@inkavo/core/steps/water/pick';
import type { WaterParams } from '@inkavo/core/steps/water';
import { PLAIN_METHODS } from './plain';
import { uciqe, uiqm } from './quality';
import { KNOWN_HEIGHT as H, KNOWN_WIDTH as W, knownCases, type KnownCase } from './scenes';
import { score, type Score } from './score';

/** What was measured of one known case. */
export interface Measured {
  name: string;
  kind: KnownCase['kind'];
  steps: string[];
  untouched: Score;
  plain: Record<string, Score>;
  firstPass: Score;
  withPick: Score;
  /** Largest change of a channel by the first pass, encoded. */
  change: number;
  /** Noise of red on the slate after, over green's before. */
  redNoise: number;
  /** Share of the frame that the first pass pushed beyond white. */
  clipped: number;
  uciqe: [before: number, after: number];
  uiqm: [before: number, after: number];
}

const through = (c: KnownCase, steps: Step[]): Float32Array =>
  pictureToRgb(bakeFor(compile(steps, 0), c.frames[0], 65), c.frames[0]);

/** What a person does with the first pass and a tap on the slate: fits the water, or balances. */
function withPick(c: KnownCase, steps: Step[]): Step[] {
  const code = pictureToRgb(undefined, c.frames[0]);
  const slate = meanOfArea(code.map((v) => bt709.decode(v)) as Float32Array, W, H, c.slate);
  const step = steps.find((s) => s.kind === 'water');
  if (!step) {
    const balance = newStep('balance', 'pick', neutralise(slate).params);
    return c.kind === 'haze' ? steps : [balance, ...steps.filter((s) => s.kind !== 'balance')];
  }
  const map = mapsOf(compile([step], 0), shrink(c.frames[0])).find(Boolean)!;
  const values = mapValues(map, code, W, H, LUMA.bt709);
  const middle = Math.floor((c.slate.y + c.slate.height / 2) * H) * W + Math.floor((c.slate.x + c.slate.width / 2) * W);
  const fit = fitNeutral(step.params as WaterParams, slate, values[middle])!;
  return steps.map((s) => (s === step ? { ...s, params: { ...s.params, ...fit } } : s));
}

/** Pixels apart at which noise no longer goes together: chroma has half the pixels. */
const APART = 4;

/** Noise of a channel on the slate, which is plain: deviation between pixels a little apart. */
function noise({ slate }: KnownCase, values: Float32Array, channel: number): number {
  let [sum, count] = [0, 0];
  for (let y = Math.ceil((slate.y + 0.03) * H); y < (slate.y + slate.height - 0.03) * H; y += 1)
    for (let x = Math.ceil((slate.x + 0.02) * W); x + APART < (slate.x + slate.width - 0.02) * W; x += 1, count += 1) {
      const i = 3 * (y * W + x) + channel;
      sum += (values[i + 3 * APART] - values[i]) ** 2 / 2;
    }
  return Math.sqrt(sum / count);
}

/** Runs the first pass on a case and measures it against the truth, beside plain methods. */
export function measureCase(c: KnownCase): Measured {
  const raw = pictureToRgb(undefined, c.frames[0]);
  const steps = firstPass(c.frames.map((picture, i) => ({ small: shrink(picture), seconds: i }))).map((p) => p.step);
  const own = through(c, steps);
  const scored = (picture: Float32Array): Score => score(picture, c.truths[0], c.masks[0]);
  let clipped = 0;
  for (let i = 0; i < W * H; i += 1) {
    const rgb = [own[3 * i], own[3 * i + 1], own[3 * i + 2]] as Vec3;
    if (c.masks[0][i] && Math.max(...rgb) > 1.0006) clipped += 1;
  }
  return {
    name: c.name,
    kind: c.kind,
    steps: steps.map((s) => s.kind),
    untouched: scored(raw),
    plain: Object.fromEntries(Object.entries(PLAIN_METHODS).map(([n, f]) => [n, scored(f(raw, W, H))])),
    firstPass: scored(own),
    withPick: scored(through(c, withPick(c, steps))),
    change: own.reduce((most, v, i) => Math.max(most, Math.abs(v - raw[i])), 0),
    redNoise: noise(c, own, 0) / noise(c, raw, 1),
    clipped: clipped / (W * H),
    uciqe: [uciqe(raw), uciqe(own)],
    uiqm: [uiqm(raw, W, H), uiqm(own, W, H)],
  };
}

if (require.main === module) console.log(JSON.stringify([...knownCases()].map(measureCase)));
