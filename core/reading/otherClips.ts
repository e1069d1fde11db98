import type { Vec3 } from '../colour/matrix';
import { LUMINANCE } from '../colour/primaries';
import type { Correction } from './correction';
import { estimate, evidenceOf, hiddenLikelihoods, likelihoods, type ClipClass } from './estimate';
import { GRID_CELLS, type Grid } from './grid';
import { shares, type Sight, withOther } from './recognise';

type Likelihoods = Readonly<Record<ClipClass, number>>;

/** Evidence from another clip of the same camera about how it records. */
export interface OtherClip {
  /** Likelihood of each class. */
  likely: Likelihoods;
  /** Its levels and curve, if it is flat. */
  curve: Correction;
  /** Gains of each channel in linear light (natural logarithms) that correct its white, if it is wrong. */
  gain: Vec3;
  /** Its cells, of one or more frames. */
  grids: readonly Grid[];
}

/**
 * Probability that a clip was recorded differently from the others of its camera, flat or not. Of made clips of the
 * development part 50 to 92 % of flat recordings are recognised by themselves, with four others recorded alike 92 to
 * 100 % with 0.15 or 0.3; those of haze alone as not flat 50 to 75, 92 to 96 and 71 to 92 %. Where all others were
 * recorded differently, 2 of 32 good clips were taken for flat with 0.15, 1 with 0.3.
 */
const OTHERWISE = 0.3;
/** Prior probability that a clip is flat: the classes were learned with equal frequencies. */
const BEFORE = [0.2, 0.8];
/**
 * Weight of a clip's own levels and curve, in clips. With 1, 2 and 4, flat clips with four others recorded alike come
 * to 0.64, 0.62 and as much as with 2 of untouched, by themselves to 0.67; with four of another flat curve to 0.85 with
 * 2, 0.77 with 4, by themselves to 0.71.
 */
const OWN = 4;

/** The same for its white, which is set manually and kept, or found by the camera for each clip (judged). */
const WHITE_OTHERWISE = 0.3;
/**
 * Standard deviations of the difference of red and blue gains relative to green (natural logarithms) from those of
 * other clips with the same white, and of clips with any white. Of 20 made clips of a wrong white (development part)
 * with four others of the same one 0.12 and 0.08 leave 0.44 of untouched, by themselves 0.48; with four others that
 * have nothing wrong 0.54 and 0.51. Without considering the difference, 24 more such clips came to 0.48 and 0.72, by
 * themselves to 0.57; with it (0.12) to 0.46 and 0.62.
 */
const SAME_WHITE = 0.08;
const ANY_WHITE = 0.4;

/** From this likelihood on another clip is reported as flat. */
export const AS_FLAT = 0.5;

function readGrids(grids: readonly Grid[]): OtherClip {
  const evidence = evidenceOf(grids);
  return {
    likely: likelihoods(evidence),
    curve: estimate('flat', evidence).correction,
    gain: estimate('white', evidence).correction.gain,
    grids,
  };
}

/** Collects the evidence of a camera's other clips. */
export const readOtherClips = (sights: readonly Sight[]): OtherClip[] =>
  sights.map(({ code }) => {
    const size = 3 * GRID_CELLS;
    return readGrids(Array.from({ length: code.length / size }, (_, i) => code.subarray(i * size, (i + 1) * size)));
  });

const flatOnes = (others: readonly OtherClip[]): OtherClip[] => others.filter(({ likely }) => likely.flat >= AS_FLAT);

/** The other flat clips after a clip's known conversion, as standard video. */
export const othersAsStandard = (others: readonly OtherClip[], convert: (grid: Grid) => Grid): OtherClip[] =>
  flatOnes(others).map(({ grids }) => readGrids(grids.map(convert)));

/**
 * The other flat clips, converted like a clip: likelihood that each hid haze, a wrong white or nothing, and its white.
 * Of 20 made flat clips of a wrong white (development part) with four others of the same this leaves 0.60 of untouched,
 * without it 0.63.
 */
export const convertedOthers = (others: readonly OtherClip[], convert: (grid: Grid) => Grid): OtherClip[] =>
  flatOnes(others).map((other) => {
    const grids = other.grids.map(convert);
    const evidence = evidenceOf(grids);
    const likely = { water: 0, flat: 0, ...hiddenLikelihoods(evidence) };
    return { ...other, grids, likely, gain: estimate('white', evidence).correction.gain };
  });

const chromaOf = (gain: Readonly<Vec3>): [number, number] => [gain[0] - gain[1], gain[2] - gain[1]];

/** Weight of another clip's evidence about white: small if it is flat, hazy or under water. */
const weightOf = ({ likely }: OtherClip): number => likely.white + likely.good;

/** Weighted mean of red and blue relative to green over clips. */
function meanChroma(list: readonly { gain: Readonly<Vec3>; weight: number }[]): [number, number] {
  const weights = shares(list.map((c) => c.weight));
  return [0, 1].map((k) => list.reduce((s, c, j) => s + weights[j] * chromaOf(c.gain)[k], 0)) as [number, number];
}

/** Likelihood that a clip has its own white, from the difference of its estimate from the others'. */
function ownWhite(gain: Readonly<Vec3>, others: readonly OtherClip[]): number {
  const weighed = others.map((c) => ({ gain: c.gain, weight: weightOf(c) + 1e-9 }));
  const count = weighed.reduce((s, c) => s + c.weight, 0);
  const [own, mean] = [chromaOf(gain), meanChroma(weighed)];
  const off = (own[0] - mean[0]) ** 2 + (own[1] - mean[1]) ** 2;
  const density = (deviation: number): number => {
    const variance = deviation ** 2 * (1 + 1 / Math.max(1, count));
    return Math.exp(-off / (2 * variance)) / variance;
  };
  const [same, any] = [(1 - WHITE_OTHERWISE) * density(SAME_WHITE), WHITE_OTHERWISE * density(ANY_WHITE)];
  return any / Math.max(Number.MIN_VALUE, same + any);
}

/** Adjusts a clip's likelihoods of a wrong white and of none by its camera's other clips. */
export function whitesWithOthers<L extends { readonly white: number; readonly good: number }>(
  own: L,
  gain: Readonly<Vec3>,
  others: readonly OtherClip[],
): L {
  if (others.length === 0) return own;
  const even = [0.5, 0.5];
  const both = own.white + own.good;
  const told = others.map(({ likely }) => [(1 + likely.white - likely.good) / 2, (1 + likely.good - likely.white) / 2]);
  const all = told.reduce((now, other) => withOther(now, other, even, WHITE_OTHERWISE), even);
  const [white] = withOther(shares([own.white + 1e-9, own.good + 1e-9]), all, even, ownWhite(gain, others));
  return { ...own, white: both * white, good: both * (1 - white) };
}

/**
 * Class likelihoods of a clip given others of its camera, which are most likely equally flat and have the same white.
 * `gain`: would correct its own white.
 */
export function likelihoodsWithOthers(
  own: Likelihoods,
  gain: Readonly<Vec3>,
  others: readonly OtherClip[],
): Likelihoods {
  if (others.length === 0) return own;
  const take = (now: readonly number[], other: readonly number[]): number[] => withOther(now, other, BEFORE, OTHERWISE);
  // All others count as one witness: their mutual agreement is no evidence against this clip being different.
  const told = others.map(({ likely }) => [likely.flat, 1 - likely.flat]).reduce(take, BEFORE);
  const [flat, not] = take([own.flat, 1 - own.flat], told);
  const rest = not / Math.max(1e-9, 1 - own.flat);
  const white = whitesWithOthers(own, gain, others);
  const classes = Object.keys(own) as ClipClass[];
  const all = shares(classes.map((c) => (c === 'flat' ? flat : white[c] * rest)));
  return Object.fromEntries(classes.map((c, k) => [c, all[k]])) as Record<ClipClass, number>;
}

/** A correction of a flat recording with levels and curve pooled over all flat clips of a camera. */
export function curveWithOthers(own: Correction, others: readonly OtherClip[]): Correction {
  const all = [{ flat: OWN, curve: own }, ...others.map(({ likely, curve }) => ({ flat: likely.flat, curve }))];
  const weights = shares(all.map(({ flat }) => flat));
  const mean = (key: 'black' | 'widen' | 'open'): number =>
    all.reduce((s, { curve }, k) => s + weights[k] * curve[key], 0);
  return { ...own, black: mean('black'), widen: mean('widen'), open: mean('open') };
}

/** Number of other clips whose wrong white seems to be the same. */
export const withSameWhite = (gain: Readonly<Vec3>, others: readonly OtherClip[]): number =>
  others.filter((other) => other.likely.white >= 0.5 && ownWhite(gain, [other]) < 0.5).length;

/** The illuminant that gains turn white, normalised in luminance, as natural logarithms. */
const levelOf = (gain: Readonly<Vec3>): number =>
  Math.log(gain.reduce((sum, g, c) => sum + LUMINANCE[c] * Math.exp(-g), 0));

/** A correction of a wrong white with its colour pooled over a camera's clips, as far as this one seems to share it. */
export function whiteWithOthers(own: Correction, others: readonly OtherClip[]): Correction {
  if (others.length === 0) return own;
  const alike = 1 - ownWhite(own.gain, others);
  const [red, blue] = meanChroma([
    { gain: own.gain, weight: 1 },
    ...others.map(({ likely, gain }) => ({ gain, weight: alike * likely.white })),
  ]);
  const gain: Vec3 = [own.gain[1] + red, own.gain[1], own.gain[1] + blue];
  const level = levelOf(gain) - levelOf(own.gain);
  return { ...own, gain: gain.map((g) => g + level) as Vec3 };
}
