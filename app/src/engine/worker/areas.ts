import { bt709 } from '@inkavo/core/colour/transfer';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { rgbToYcbcr } from '@inkavo/core/colour/ycbcr';
import type { Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { compileBefore } from '@inkavo/core/program/evaluate';
import { smallValues } from '@inkavo/core/program/planes';
import { readHaze } from '@inkavo/core/reading/hazeReading';
import { readFrame } from '@inkavo/core/reading/readFrames';
import { apartOf, likeSchema } from '@inkavo/core/regions/matte';
import { REGION } from '@inkavo/core/regions/region';
import { meanOfArea, sampleArea, type Area } from '@inkavo/core/scopes/sampleArea';
import { planesAt, solve, valuesAt, type Solution } from '@inkavo/core/scopes/solver';
import { automaticBalances, type AutomaticBalance } from '@inkavo/core/steps/balance/automatic';
import { pickNeutral, type NeutralPick, type NeutralSample } from '@inkavo/core/steps/balance/pick';
import { fetchLuts } from './baking';
import { gradedPixels, pixelPlanes, planesFor, received, type Frame, type Moment, type Stamped } from './frame';
import { measuredFrame } from './measuredFrame';

export interface ColourReading {
  /** Mean encoded R'G'B', as recorded and as graded. */
  before: [number, number, number];
  after: [number, number, number];
}

/** Number of pixels, spread over the frame, for estimating the illuminant. */
const AUTOMATIC_PIXELS = 60_000;

/** Encoded luma of a grey card of 18 % (ITU-R BT.709 of 0.18). */
const GREY_CARD = bt709.encode(0.18);

/** The pixels of an area in linear light as they enter a step. */
function areaBefore(from: Frame, { steps, seconds }: Moment, stepId: string, area: Area): NeutralSample {
  const before = compileBefore(steps, stepId, seconds);
  const values = pixelPlanes(from, planesFor(from.small, { steps, seconds }));
  return sampleArea(from.code, from.width, from.height, area, (rgb, i) => before(rgb, valuesAt(values, i)), from.ends);
}

/** The steps up to a given one, with all regions, which may appear anywhere. */
const upTo = (steps: Step[], index: number): Step[] => steps.filter((s, i) => i <= index || s.kind === REGION);

/** Mean of linear colours. */
function meanOf(linear: Float64Array): Vec3 {
  const sum: Vec3 = [0, 0, 0];
  for (let i = 0; i < linear.length; i += 1) sum[i % 3] += linear[i];
  return sum.map((s) => (3 * s) / linear.length) as Vec3;
}

/** Readings of a part of the frame, or of the frame as it enters a step. */
export const areasApi = {
  /** Balance parameters from an area of the picture, or the reason why not. */
  async pick({ steps, seconds }: Moment, stepId: string, area: Area): Promise<NeutralPick | null> {
    const frame = measuredFrame();
    if (!frame) return null;
    await fetchLuts(steps);
    return pickNeutral(areaBefore(frame, { steps, seconds }, stepId, area));
  },

  /** Mean linear colour of an area as it enters a step, and the step's own map there. */
  async before({ steps, seconds }: Moment, stepId: string, area: Area): Promise<{ colour: Vec3; map: number } | null> {
    const frame = measuredFrame();
    if (!frame) return null;
    await fetchLuts(steps);
    const colour = meanOf(areaBefore(frame, { steps, seconds }, stepId, area).linear);
    const index = steps.findIndex((s) => s.id === stepId);
    const moment = { steps: upTo(steps, index), seconds };
    const op = compile(moment.steps, seconds).ops.at(-1);
    const planes = pixelPlanes(frame, planesFor(frame.small, moment));
    const values = op?.kind === 'point' ? planes[op.plane] : undefined;
    if (!values) return { colour, map: 0 };
    const { width, height } = frame;
    let [sum, count] = [0, 0];
    for (let y = Math.floor(area.y * height); y < Math.min(height, (area.y + area.height) * height); y += 1)
      for (let x = Math.floor(area.x * width); x < Math.min(width, (area.x + area.width) * width); x += 1, count += 1)
        sum += values[y * width + x];
    return { colour, map: sum / Math.max(1, count) };
  },

  /**
   * Mean encoded colour of an area as it enters a step, and the radius that contains 95 % of its pixels, as measured by
   * mattes.
   */
  async colourBefore(
    { steps, seconds }: Moment,
    stepId: string,
    area: Area,
  ): Promise<{ colour: Vec3; spread: number } | null> {
    const frame = measuredFrame();
    if (!frame) return null;
    await fetchLuts(steps);
    const { linear } = areaBefore(frame, { steps, seconds }, stepId, area);
    const encoded = linear.map(bt709.encode);
    const colour = meanOf(encoded);
    const apart = apartOf(likeSchema.shape.light.parse(undefined), colour);
    const all: number[] = [];
    for (let o = 0; o < encoded.length; o += 3) all.push(apart([encoded[o], encoded[o + 1], encoded[o + 2]]));
    all.sort((a, b) => a - b);
    return { colour, spread: all[Math.floor(0.95 * (all.length - 1))] ?? 0 };
  },

  /** Haze in the frame as it enters a step: its airlight, or null if there is none. */
  async airlight({ steps, seconds }: Moment, stepId: string): Promise<Vec3 | null> {
    const frame = measuredFrame();
    if (!frame) return null;
    await fetchLuts(steps);
    const index = steps.findIndex((s) => s.id === stepId);
    const before = compileBefore(steps, stepId, seconds);
    const { small } = frame;
    const planes = planesFor(small, { steps: upTo(steps, index - 1), seconds }).map((m) => m && smallValues(m, small));
    const read = readFrame(small, (rgb, i) => {
      before(rgb, valuesAt(planes, i));
      for (let c = 0; c < 3; c += 1) rgb[c] = bt709.encode(rgb[c]);
    });
    return readHaze([read])?.airlight ?? null;
  },

  /** Hue (turns) and chroma of an area as it enters a step, encoded. */
  async hueAt({ steps, seconds }: Moment, stepId: string, area: Area): Promise<{ hue: number; chroma: number } | null> {
    const frame = measuredFrame();
    if (!frame) return null;
    await fetchLuts(steps);
    const mean = meanOf(areaBefore(frame, { steps, seconds }, stepId, area).linear);
    const [, cb, cr] = rgbToYcbcr(mean.map(bt709.encode) as Vec3, 'bt709');
    return { hue: (Math.atan2(cr, cb) / (2 * Math.PI) + 1) % 1, chroma: Math.hypot(cb, cr) };
  },

  /** Result of each automatic method on the frame as it enters a balance step. */
  async automatic({ steps, seconds }: Moment, stepId: string): Promise<AutomaticBalance[]> {
    const frame = measuredFrame();
    if (!frame) return [];
    await fetchLuts(steps);
    const { code, ends } = frame;
    const before = compileBefore(steps, stepId, seconds);
    const values = pixelPlanes(frame, planesFor(frame.small, { steps, seconds }));
    const stride = Math.max(1, Math.floor(code.length / 3 / AUTOMATIC_PIXELS));
    const count = Math.floor(code.length / 3 / stride);
    const sample = { linear: new Float64Array(count * 3), clipped: new Uint8Array(count) };
    const rgb: Vec3 = [0, 0, 0];
    for (let i = 0; i < count; i += 1) {
      const o = i * stride * 3;
      for (let c = 0; c < 3; c += 1) rgb[c] = code[o + c];
      if (Math.max(...rgb) >= ends.high || Math.min(...rgb) <= ends.low) sample.clipped[i] = 1;
      before(rgb, valuesAt(values, i * stride));
      sample.linear.set(rgb, i * 3);
    }
    return automaticBalances(sample);
  },

  /** The exposure that gives an area of the picture the luma of a grey card (18 % reflectance). */
  greyCard({ steps, seconds }: Moment, stepId: string, area: Area): Solution | null {
    const frame = measuredFrame();
    if (!frame) return null;
    const mean = meanOfArea(frame.code, frame.width, frame.height, area);
    const { width, height } = frame;
    const middle =
      Math.floor((area.y + area.height / 2) * height) * width + Math.floor((area.x + area.width / 2) * width);
    const planes = planesAt(pixelPlanes(frame, planesFor(frame.small, { steps, seconds })), [middle]);
    const sample = { codes: Float64Array.from(mean), quantity: 'luma' as const, planes };
    return solve(sample, steps, stepId, 'exposure', GREY_CARD, seconds);
  },

  /** Mean colours of areas before and after the grade. */
  readColours(sent: Stamped, areas: Area[]): (ColourReading | null)[] {
    const from = received(sent);
    const frame = measuredFrame();
    if (!frame) return areas.map(() => null);
    const { graded } = gradedPixels(frame, from, false);
    const { width, height, code } = frame;
    return areas.map((area) => ({
      before: meanOfArea(code, width, height, area),
      after: meanOfArea(graded, width, height, area),
    }));
  },
};
