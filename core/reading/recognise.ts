import { toWorking } from '../colour/adaptation';
import { IDENTITY3, transformInPlace, type Vec3 } from '../colour/matrix';
import { luma709 } from '../colour/ycbcr';
import stored from '../learned/profiles.json';
import { readPerceptron, run, type Perceptron, type StoredPerceptron } from '../learned/perceptron';
import { resolvePrimaries, type Profile } from '../model/profile';
import { linearToSignal, signalToLinear } from '../steps/convert/transfer';
import type { Grid } from './grid';
import { UNKNOWN_CURVES } from './unknownCurves';

/** Likelihood that a clip was recorded with a profile, and the evidence. */
export interface Recognised {
  profile: Profile;
  /** 0–1, among all candidates. */
  likelihood: number;
  /** A sentence with numbers. */
  reason: string;
}

export interface Recognition {
  /** The likeliest first. */
  ranked: Recognised[];
  /** Likelihood that the clip was recorded with none of them, 0–1: all likelihoods and this one add up to 1. */
  unknown: number;
  /** Whether the first can be used without asking. */
  sure: boolean;
}

/**
 * From this likelihood on the first one is used. Of 160 made clips of eight profiles of the development part it left 60
 * % to be asked about and was wrong for 1.3 %; of 240 kept aside 63 % and 0.8 %, standard video never
 * (`demo/known/recognition.ts`). Before unknown curves competed ({@link UNKNOWN}) 47 % and 3 %.
 */
export const SURE = 0.8;
/**
 * The same with evidence from other clips of the camera, which may agree on an unknown curve too. Of 80 made clips of
 * such curves (development part) 5 were taken for a known profile at 0.8, 1 at 0.9, 1 by themselves; of 96 of known
 * ones 71 and 68 are recognised with four others, none wrongly.
 */
const SURE_TOGETHER = 0.9;
/**
 * Likelihood ratio for the profile named by the file's transfer tag: tags are set on purpose, but survive conversions.
 */
const TAGGED = 60;
/** Probability that such a recording lacks its tag: players need it, so cameras write it (common practice). */
const UNTAGGED = 0.05;
/**
 * Prior of an unknown curve relative to any single profile. Without it 43 % of the development part's flat recordings
 * of unknown curves were recognised as a known one, and 59 % of its haze; with 1, 2 and 4: 17, 12 and 5 %, and 23, 10
 * and 4 %. Ten-bit drone log is recognised from its pictures alone in 91 % without it, 75 % with 2.
 */
const UNKNOWN = 2;
const BY_TAG: Record<string, Profile['transfer']['kind']> = { 'arib-std-b67': 'hlg', smpte2084: 'pq' };

/** Whether a file's transfer tag names a profile's curve. */
export const isTagged = ({ transfer }: Profile, tag: string | null): boolean =>
  tag !== null && BY_TAG[tag] === transfer.kind;

const SHARES = [0.003, 0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 0.98, 0.997];
const CHROMA_SHARES = [0.25, 0.5, 0.75, 0.95];
/** Light below this is noise: 11 stops below white. */
const DARKEST = 2 ** -11;
/** Cells whose largest channel is darker have no reliable colour. */
const COLOURED = 0.02;
const GREY = 0.18;

const at = (sorted: Float32Array, share: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];

/** Sorted code values of a clip's cells, shared by all hypotheses. */
export interface Sight {
  /** R'G'B' as recorded, cells × 3. */
  code: Float32Array;
  levels: number[];
  chroma: number[];
  depth: number;
}

/** Chroma of cells: range of the channels over the largest. */
function chromaOf(rgb: Float32Array, darkest: number): number[] {
  const values = new Float32Array(rgb.length / 3);
  let count = 0;
  for (let o = 0; o < rgb.length; o += 3) {
    const high = Math.max(rgb[o], rgb[o + 1], rgb[o + 2]);
    if (high > darkest) {
      values[count] = (high - Math.min(rgb[o], rgb[o + 1], rgb[o + 2])) / high;
      count += 1;
    }
  }
  if (count === 0) return CHROMA_SHARES.map(() => 0);
  const sorted = values.subarray(0, count).sort();
  return CHROMA_SHARES.map((p) => at(sorted, p));
}

function lumaLevels(rgb: Float32Array): number[] {
  const luma = new Float32Array(rgb.length / 3);
  for (let i = 0; i < luma.length; i += 1) luma[i] = luma709(rgb[3 * i], rgb[3 * i + 1], rgb[3 * i + 2]);
  luma.sort();
  return SHARES.map((p) => at(luma, p));
}

/** Evidence from some frames of a clip as recorded. `depth`: bits of the file. */
export function sightOf(grids: readonly Grid[], depth: number): Sight {
  const code = new Float32Array(grids.reduce((n, g) => n + g.length, 0));
  let offset = 0;
  for (const grid of grids) {
    code.set(grid, offset);
    offset += grid.length;
  }
  return { code, levels: lumaLevels(code), chroma: chromaOf(code, COLOURED), depth };
}

/** Largest and smallest distinguishable light. */
const stops = (v: number): number => Math.log2(Math.min(64, Math.max(DARKEST, v)));

/** Statistics of a clip under the hypothesis that it was recorded with a profile. */
export function profileFeatures({ code, levels, chroma, depth }: Sight, profile: Profile): Float32Array {
  const decode = signalToLinear(profile.transfer);
  const encode = linearToSignal(profile.transfer);
  const primaries = resolvePrimaries(profile.primaries);
  const matrix = profile.primaries === 'bt709' ? IDENTITY3 : toWorking(primaries);
  const light = new Float32Array(code.length);
  const rgb: Vec3 = [0, 0, 0];
  let [under, over, far] = [0, 0, 0];
  for (let o = 0; o < code.length; o += 3) {
    for (let c = 0; c < 3; c += 1) rgb[c] = decode(code[o + c]);
    transformInPlace(matrix, rgb);
    if (Math.min(rgb[0], rgb[1], rgb[2]) < -0.01) under += 1;
    const high = Math.max(rgb[0], rgb[1], rgb[2]);
    if (high > 1) over += 1;
    if (high > 2) far += 1;
    for (let c = 0; c < 3; c += 1) light[o + c] = rgb[c];
  }
  const cells = code.length / 3;
  const own = lumaLevels(light);
  const [black, grey, white] = [0, GREY, 1].map(encode);
  return Float32Array.from([
    ...own.map(stops),
    ...chromaOf(light, COLOURED),
    Math.sqrt(under / cells),
    Math.sqrt(over / cells),
    Math.sqrt(far / cells),
    levels[0] - black,
    levels[1] - black,
    (levels[4] - grey) / (white - black),
    levels[8] - white,
    ...levels,
    ...chroma,
    black,
    grey,
    white,
    (encode(2 * GREY) - encode(GREY / 2)) / 2,
    // Gamut size of the primaries: the area of their triangle.
    Math.abs(
      (primaries.green.x - primaries.red.x) * (primaries.blue.y - primaries.red.y) -
        (primaries.blue.x - primaries.red.x) * (primaries.green.y - primaries.red.y),
    ),
    depth > 8 ? 1 : 0,
  ]);
}

let learned: Perceptron[] | undefined;
const estimators = (): Perceptron[] => (learned ??= (stored as StoredPerceptron[]).map(readPerceptron));

const scoreOf = (numbers: Float32Array): number =>
  estimators().reduce((sum, e) => sum + run(e, numbers)[0], 0) / estimators().length;

/** Curves that are statistically indistinguishable from standard video, and that nobody records with on purpose. */
const isAlike = ({ transfer, primaries }: Profile): boolean =>
  primaries === 'bt709' && ['srgb', 'gamma', 'bt1886'].includes(transfer.kind);

const percent = (v: number): string => `${(100 * v).toFixed(0)} %`;

function reasonFor({ levels }: Sight, { transfer }: Profile, tag: string | null): string {
  const encode = linearToSignal(transfer);
  const seen = `Dark at ${percent(levels[1])}, middle at ${percent(levels[4])}, bright at ${percent(levels[7])}`;
  const own = `its black is ${percent(encode(0))}, its grey ${percent(encode(GREY))}, its white ${percent(encode(1))}`;
  return `${tag ? `The file's transfer tag says ${tag}. ` : ''}${seen}; ${own}.`;
}

/**
 * Probability that a clip was recorded differently from the others of its camera (judged: cameras keep their settings
 * for a day, and get new ones between days). On 160 made clips of the development part the first guess is right in 77 %
 * by itself, with two others recorded alike in 91 %, with four in 96 %; with two that were both recorded differently in
 * 72 %.
 */
const OTHERWISE = 0.15;

/** Normalises to a sum of 1. */
export function shares(values: readonly number[]): number[] {
  const sum = values.reduce((a, b) => a + b, 0);
  return values.map((v) => v / sum);
}

/**
 * Combines likelihoods with those of other clips: as if recorded alike, or as anything else with probability
 * `otherwise`. `before`: the prior. All lists add up to 1.
 */
export const withOther = (
  now: readonly number[],
  other: readonly number[],
  before: readonly number[],
  otherwise: number,
): number[] => shares(now.map((v, k) => v * ((1 - otherwise) * (other[k] / before[k]) + otherwise)));

/** Posterior of hypotheses from likelihood and prior; both add up to 1. */
function afterSeeing(sight: Sight, hypotheses: readonly Profile[], before: readonly number[]): number[] {
  const scores = hypotheses.map((h) => scoreOf(profileFeatures(sight, h)));
  const most = Math.max(...scores);
  return shares(scores.map((s, k) => before[k] * Math.exp(s - most)));
}

/**
 * Likelihood of each profile for a clip, from what its frames would look like if they had been recorded with it: how
 * dark, bright and colourful the scene would have been, and where its darkest and brightest parts lie relative to the
 * profile's black and white. Unknown profiles are judged like the others. Learned from photographs put through known
 * and random curves (`npm run learn:profiles`). `tag`: the file's transfer tag. `otherClips`: evidence from other clips
 * of its camera with the same depth and tag, most likely recorded with the same profile. Empty for no profiles.
 */
export function recogniseProfile(
  sight: Sight,
  profiles: readonly Profile[],
  tag: string | null,
  otherClips: readonly Sight[] = [],
): Recognition {
  const asked = profiles.filter((p) => !isAlike(p));
  const tagged = tag ? BY_TAG[tag] : undefined;
  const priorOf = ({ transfer: { kind } }: Profile): number =>
    kind === tagged ? TAGGED : Object.values(BY_TAG).includes(kind) ? UNTAGGED : 1;
  const hypotheses = [...asked, ...UNKNOWN_CURVES];
  const before = shares([...asked.map(priorOf), ...UNKNOWN_CURVES.map(() => UNKNOWN / UNKNOWN_CURVES.length)]);
  const own = afterSeeing(sight, hypotheses, before);
  const take = (now: readonly number[], other: readonly number[]): number[] => withOther(now, other, before, OTHERWISE);
  // All others count as one witness: their mutual agreement is no evidence against this clip being different.
  const others = otherClips.map((f) => afterSeeing(f, hypotheses, before)).reduce(take, before);
  const likelihoods = otherClips.length ? take(own, others) : own;
  const ranked = asked
    .map((profile, i) => ({
      profile,
      likelihood: likelihoods[i],
      reason: reasonFor(sight, profile, profile.transfer.kind === tagged ? tag : null),
    }))
    .sort((a, b) => b.likelihood - a.likelihood);
  const unknown = likelihoods.slice(asked.length).reduce((a, b) => a + b, 0);
  return { ranked, unknown, sure: (ranked[0]?.likelihood ?? 0) >= (otherClips.length ? SURE_TOGETHER : SURE) };
}
