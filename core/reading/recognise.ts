import { toWorking } from '../colour/adaptation';
import { IDENTITY3, transformInPlace, type Vec3 } from '../colour/matrix';
import { luma709 } from '../colour/ycbcr';
import stored from '../learned/profiles.json';
import { readPerceptron, run, type Perceptron, type StoredPerceptron } from '../learned/perceptron';
import { resolvePrimaries, type Profile } from '../model/profile';
import { linearToSignal, signalToLinear } from '../steps/convert/transfer';
import type { Grid } from './grid';
import { UNKNOWN_CURVES } from './unknownCurves';

/** How likely it is that a clip was recorded with a profile, and what speaks for it. */
export interface Recognised {
  profile: Profile;
  /** 0–1, among all that were asked about. */
  likelihood: number;
  /** A sentence with numbers. */
  reason: string;
}

export interface Recognition {
  /** The likeliest first. */
  ranked: Recognised[];
  /** How likely it is that the clip was recorded with none of them, 0–1: the likelihoods of all and this add up to 1. */
  unknown: number;
  /** Whether the first can be taken without asking. */
  sure: boolean;
}

/**
 * From this likelihood on the first one is taken. Of 160 made clips of eight profiles of the development part it left 60 %
 * to be asked about and took 1.3 % wrongly; of 240 kept aside 63 % and 0.8 %, standard video never
 * (`demo/known/recognition.ts`). Before unknown curves competed ({@link UNKNOWN}) 47 % and 3 %.
 */
export const SURE = 0.8;
/**
 * The same where other clips of the camera bear witness: they agree on a curve that nobody knows as well. Of 80 made clips of such
 * curves (development part) 5 were taken for a known profile at 0.8, 1 at 0.9, 1 by themselves; of 96 of known ones 71 and 68
 * are taken rightly with four others, none wrongly.
 */
const SURE_TOGETHER = 0.9;
/** How much more likely a profile is that the file's transfer tag names: a tag is set on purpose, but copies keep it. */
const TAGGED = 60;
/** How likely such a recording is without its tag: players need it, so cameras write it (common practice). */
const UNTAGGED = 0.05;
/**
 * How much likelier a curve that no profile is known of is than any single profile. Without it 43 % of the development
 * part's flat recordings of unknown curves were surely taken for a known one, and 59 % of its haze; with 1, 2 and 4: 17,
 * 12 and 5 %, and 23, 10 and 4 %. Ten-bit drone log is known by its pictures alone in 91 % without it, 75 % with 2.
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
/** Cells whose largest channel is darker have no colour to speak of. */
const COLOURED = 0.02;
const GREY = 0.18;

const at = (sorted: Float32Array, share: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];

/** Code values of a clip's cells, sorted: what all hypotheses share. */
export interface Sight {
  /** R'G'B' as recorded, cells × 3. */
  code: Float32Array;
  levels: number[];
  chroma: number[];
  depth: number;
}

/** Chroma of cells: the range of the channels over the largest. */
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

/** What is seen of a clip, from some of its frames as recorded. `depth`: bits of the file. */
export function sightOf(grids: readonly Grid[], depth: number): Sight {
  const code = new Float32Array(grids.reduce((n, g) => n + g.length, 0));
  let offset = 0;
  for (const grid of grids) {
    code.set(grid, offset);
    offset += grid.length;
  }
  return { code, levels: lumaLevels(code), chroma: chromaOf(code, COLOURED), depth };
}

/** Largest and smallest light that is told apart. */
const stops = (v: number): number => Math.log2(Math.min(64, Math.max(DARKEST, v)));

/** What a clip would be like if it was recorded with a profile, as numbers. */
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
    // How wide its primaries are: the area of their triangle.
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

/** Curves that statistics cannot tell from standard video, and that nobody records with on purpose. */
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
 * How likely it is that a clip was recorded otherwise than the others of its camera (judged: cameras are left as they are set
 * for a day, and set anew between two). On 160 made clips of the development part the first guess is right in 77 % by itself, with
 * two others recorded alike in 91 %, with four in 96 %; with two that were both recorded otherwise in 72 %.
 */
const OTHERWISE = 0.15;

/** Shares of a whole. */
export function shares(values: readonly number[]): number[] {
  const sum = values.reduce((a, b) => a + b, 0);
  return values.map((v) => v / sum);
}

/**
 * Takes another clip's, or clips', likelihoods in: as if recorded alike, or all else where recorded `otherwise`, of which this is
 * the likelihood. `before`: what was likely before anything was seen. All lists add up to 1.
 */
export const withOther = (
  now: readonly number[],
  other: readonly number[],
  before: readonly number[],
  otherwise: number,
): number[] => shares(now.map((v, k) => v * ((1 - otherwise) * (other[k] / before[k]) + otherwise)));

/** How likely hypotheses are by what is seen, given how likely they were before; both add up to 1. */
function afterSeeing(sight: Sight, hypotheses: readonly Profile[], before: readonly number[]): number[] {
  const scores = hypotheses.map((h) => scoreOf(profileFeatures(sight, h)));
  const most = Math.max(...scores);
  return shares(scores.map((s, k) => before[k] * Math.exp(s - most)));
}

/**
 * How likely each profile is for a clip, by what its frames would be like if it was recorded with it: how dark, bright
 * and colourful the scene would have been, and where its darkest and brightest parts lie against the profile's black and
 * white. Profiles that nobody has seen before are judged like the others. Learned from photographs put through known and
 * random curves (`npm run learn:profiles`). `tag`: the file's transfer tag. `otherClips`: what is seen of other clips of its
 * camera, recorded with the same depth and tag: most likely with the same profile. Empty for no profiles.
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
  // All others together are one witness: that they agree with each other does not make this one less likely to differ.
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
