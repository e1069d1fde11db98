import { Matrix, solve } from 'ml-matrix';
import type { Vec3 } from '../colour/matrix';
import { newStep, type Step } from '../model/grade';
import { stepKind } from '../steps';
import { byLuma, evenly, labsOf, nearest, scattered } from './colours';

/** The result of matching one clip to another. */
export interface Match {
  /**
   * `matched`: with ordinary steps. `unsure`: likewise, but many colours have no counterpart in the other clip, so the
   * steps are applied partially. `alike`: no remaining change would bring them closer. `unlike`: they show different
   * things, and colours alone don't determine a match.
   */
  verdict: 'matched' | 'unsure' | 'alike' | 'unlike';
  /** Ordinary steps to append to the clip's own; empty where there is nothing to do, or no evidence. */
  steps: Step[];
  /**
   * Share of the colours with a counterpart in the other clip, 0–1 (of the clip with the smaller share): before and
   * with the steps.
   */
  shared: [before: number, after: number];
}

const ENDS = ['Bottom', 'Middle', 'Top'] as const;
const CHANNELS = ['red', 'green', 'blue'] as const;
const KEYS = ENDS.flatMap((end) => CHANNELS.map((channel) => `${channel}${end}`));
/** Index of the logarithm of saturation, after the channels' numbers. */
const SATURATION = KEYS.length;

/** Number of colours that represent a clip, and of tonal ranks whose mean colours give the starting point. */
const COLOURS = 500;
const RANKS = 16;
const IN_RANK = 48;
/**
 * Scales (CIE 1976 L*a*b*) beyond which colours without a counterpart lose weight, from coarse to fine: first all
 * colours guide the search, in the end only those that both clips share.
 */
const REACHES = [20, 16, 13, 10, 8, 6, 5, 4, 4, 4];
/** Colours closer than this count as counterparts. */
const LIKE = 4;
/** Starting points: identity, and steps towards a match of tonal ranks alone. */
const BEGINNINGS = [0, 0.5, 1];
/**
 * Prior deviations of the numbers: of all channels together, of one from the others, of the logarithm of saturation.
 */
const EXPECTED = { together: 0.1, apart: 0.05, saturation: 0.3 };
/**
 * Weight of the distances against the prior. From 1 to 2, sixty known pairs gave the same result: 0.43 to 0.46 of
 * untouched.
 */
const WEIGHT = 1.2;
/** Maximum change of a number per iteration. */
const STRIDE = 0.08;
/**
 * Minimum reduction of the cost: relative and absolute. Of 80 pairs of views by one camera with identical settings, 74
 * fell below; of 160 pairs with a difference, 11 did, all small.
 */
const LEAST_GAIN = { share: 0.12, cost: 2 };
/** With this share of counterparts there is nothing to match. */
const ALIKE = 0.95;
/**
 * Evidence score: ten for all colours having counterparts with the steps, ten for the whole cost removed, less how
 * unexpected the numbers are. Of pairs that showed the same, or one place from two sides, 126 of 160 scored over six
 * and 142 over two; of pairs that showed two places 16 and 24 of 80.
 */
const SURE = 6;
const LEAST_EVIDENCE = 2;
/** Fewer counterparts than this carry no evidence. */
const LEAST_SHARED = 0.5;
const evidenceOf = (after: number, gain: number, numbers: readonly number[]): number =>
  10 * (after + gain) - sumOfSquares(unexpected(numbers));
/** Strength of steps that are unsure. */
const UNSURE_STRENGTH = 0.6;

const sumOfSquares = (values: readonly number[]): number => values.reduce((s, v) => s + v * v, 0);

/** Parameters of the two steps. */
const paramsFrom = (numbers: readonly number[]) => ({
  channels: Object.fromEntries(KEYS.map((key, i) => [key, numbers[i]])),
  saturation: { ...stepKind('saturation').neutral, amount: Math.exp(numbers[SATURATION]) },
});

/** The steps themselves, rounded to meaningful digits. */
function stepsFrom(numbers: readonly number[], like: string, strength = 1): Step[] {
  return Object.entries(paramsFrom(numbers)).flatMap(([kind, params]) => {
    const rounded = Object.fromEntries(Object.entries(params).map(([key, v]) => [key, Math.round(1000 * v) / 1000]));
    const label = `${stepKind(kind).title} like ${like}`.slice(0, 60);
    const step = { ...newStep(kind, `match-${kind}`, rounded), label, strength };
    return stepKind(kind).isNeutral(rounded) ? [] : [step];
  });
}

/** Applies the steps with these numbers to an encoded colour. */
function throughNumbers(numbers: readonly number[], strength = 1): (rgb: Vec3) => void {
  const list = Object.entries(paramsFrom(numbers)).map(([kind, params]) => stepKind(kind).prepare(params));
  return (rgb) => {
    for (const run of list) {
      const [r, g, b] = rgb;
      run(rgb);
      rgb[0] = r + strength * (rgb[0] - r);
      rgb[1] = g + strength * (rgb[1] - g);
      rgb[2] = b + strength * (rgb[2] - b);
    }
  };
}

/** Deviation of the numbers from the prior: residuals whose squares are summed. */
function unexpected(numbers: readonly number[]): number[] {
  const out = [numbers[SATURATION] / EXPECTED.saturation];
  for (let end = 0; end < ENDS.length; end += 1) {
    const own = numbers.slice(3 * end, 3 * end + 3);
    const mean = (own[0] + own[1] + own[2]) / 3;
    out.push(mean / EXPECTED.together, ...own.map((v) => (v - mean) / EXPECTED.apart));
  }
  return out;
}

/** Step for numerical derivatives. */
const DELTA = 1e-3;
const LIMITS = KEYS.map((key) => {
  const { min, max } = stepKind('channels').numbers.find((n) => n.key === key)!;
  // Keeps a margin for numerical derivatives.
  return [min + DELTA, max - DELTA] as const;
});

/** One damped Gauss–Newton step, with numerical derivatives. */
function improved(numbers: readonly number[], residuals: (numbers: readonly number[]) => number[]): number[] {
  const here = residuals(numbers);
  const slopes = numbers.map((_, i) => {
    const moved = residuals(numbers.with(i, numbers[i] + DELTA));
    return moved.map((v, k) => (v - here[k]) / DELTA);
  });
  const jacobian = new Matrix(slopes);
  const normal = jacobian.mmul(jacobian.transpose());
  for (let i = 0; i < numbers.length; i += 1) normal.set(i, i, 1.01 * normal.get(i, i));
  const by = solve(normal, jacobian.mmul(Matrix.columnVector(here)).mul(-1)).to1DArray();
  return numbers.map((v, i) => {
    const [low, high] = LIMITS[i] ?? [-1, 1];
    return Math.min(high, Math.max(low, v + Math.min(STRIDE, Math.max(-STRIDE, by[i]))));
  });
}

/** Mean L*, a*, b* of each tonal rank. */
function rankMeans(ranked: Float32Array, through?: (rgb: Vec3) => void): number[] {
  const labs = labsOf(ranked, through);
  const means = Array.from({ length: 3 * RANKS }, () => 0);
  labs.forEach((v, i) => (means[3 * Math.floor(i / 3 / IN_RANK) + (i % 3)] += v / IN_RANK));
  return means;
}

/** Numbers that match the mean colour of each tonal rank to the other clip's, as if both showed the same scene. */
function byRanks(source: Float32Array, reference: Float32Array): number[] {
  const [own, other] = [source, reference].map((c) => evenly(byLuma(c), RANKS * IN_RANK));
  const wanted = rankMeans(other);
  let numbers = Array.from({ length: SATURATION + 1 }, () => 0);
  for (let i = 0; i < 8; i += 1)
    numbers = improved(numbers, (n) => [
      ...rankMeans(own, throughNumbers(n)).map((v, k) => (v - wanted[k]) / Math.sqrt(RANKS)),
      ...unexpected(n),
    ]);
  return numbers;
}

/** Cost of matching a clip's colours to another's: a robust mean of the squared distances, plus the prior. */
function costOf(numbers: readonly number[], source: Float32Array, other: Float32Array): number {
  const own = labsOf(source, throughNumbers(numbers));
  const reach = REACHES[REACHES.length - 1] ** 2;
  let sum = 0;
  for (const { far } of [nearest(own, other), nearest(other, own)])
    for (const d of far) sum += (reach * d * d) / (reach + d * d) / COLOURS;
  return WEIGHT ** 2 * sum + sumOfSquares(unexpected(numbers));
}

/**
 * Optimises numbers from a starting point: pairs of nearest colours are brought together, weighted by their distance.
 */
function registered(beginning: number[], source: Float32Array, other: Float32Array): number[] {
  let numbers = beginning;
  const weight = WEIGHT / Math.sqrt(COLOURS);
  for (const reach of REACHES) {
    const own = labsOf(source, throughNumbers(numbers));
    const [there, back] = [nearest(own, other), nearest(other, own)];
    // Geman and McClure's weights: a distant nearest neighbour is no counterpart.
    const share = (d: number): number => reach ** 2 / (reach ** 2 + d * d);
    const pairs = [
      ...Array.from(there.which, (j, i) => [i, j, weight * share(there.far[i])] as const),
      ...Array.from(back.which, (i, j) => [i, j, weight * share(back.far[j])] as const),
    ];
    numbers = improved(numbers, (n) => {
      const now = labsOf(source, throughNumbers(n));
      const out = unexpected(n);
      for (const [i, j, w] of pairs) for (let c = 0; c < 3; c += 1) out.push(w * (now[3 * i + c] - other[3 * j + c]));
      return out;
    });
  }
  return numbers;
}

/** Share of the colours of either list that have a counterpart in the other (of the list with the smaller share). */
function sharedBy(own: Float32Array, other: Float32Array): number {
  const share = ({ far }: { far: Float32Array }): number => far.filter((d) => d < LIKE).length / far.length;
  return Math.min(share(nearest(own, other)), share(nearest(other, own)));
}

/**
 * Steps that match a clip's colours to another's: `source` and `reference` are colours of both, encoded R'G'B' (see
 * `squaresOf`), as they enter the steps and as they should come out; at least one, preferably hundreds. `like`: the
 * name of the reference, for the steps' labels.
 *
 * The whole distributions are not matched, since that would make a clip with much sky look like one without; only
 * colours that both clips share are: iterated closest points (Besl, McKay 1992) in L*a*b*, trimmed by robust weights
 * (Geman, McClure 1985), from coarse to fine. Deterministic.
 */
export function matchTo(source: Float32Array, reference: Float32Array, like: string): Match {
  const own = scattered(source, COLOURS);
  const other = labsOf(scattered(reference, COLOURS));
  const before = sharedBy(labsOf(own), other);
  const alike: Match = { verdict: 'alike', steps: [], shared: [before, before] };
  if (before >= ALIKE) return alike;
  const ranks = byRanks(source, reference);
  const beginnings = BEGINNINGS.map((share) => ranks.map((v) => share * v));
  const found = beginnings
    .map((numbers) => registered(numbers, own, other))
    .map((numbers) => ({ numbers, cost: costOf(numbers, own, other) }))
    .reduce((a, b) => (b.cost < a.cost ? b : a));
  const nothing = ranks.map(() => 0);
  const untouched = costOf(nothing, own, other);
  const gain = 1 - found.cost / untouched;
  if (!(gain >= LEAST_GAIN.share && untouched - found.cost >= LEAST_GAIN.cost)) return alike;
  const sharedWith = (strength: number): number =>
    sharedBy(labsOf(own, throughNumbers(found.numbers, strength)), other);
  const after = sharedWith(1);
  const evidence = evidenceOf(after, gain, found.numbers);
  if (evidence < LEAST_EVIDENCE || after < LEAST_SHARED)
    return { verdict: 'unlike', steps: [], shared: [before, after] };
  if (evidence >= SURE) return { verdict: 'matched', steps: stepsFrom(found.numbers, like), shared: [before, after] };
  const steps = stepsFrom(found.numbers, like, UNSURE_STRENGTH);
  return { verdict: 'unsure', steps, shared: [before, sharedWith(UNSURE_STRENGTH)] };
}
