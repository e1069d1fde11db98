import type { Vec3 } from '../colour/matrix';
import { LUMINANCE } from '../colour/primaries';
import type { Correction } from './correction';
import { estimate, evidenceOf, hiddenLikelihoods, likelihoods, type ClipClass } from './estimate';
import { GRID_CELLS, type Grid } from './grid';
import { shares, type Sight, withOther } from './recognise';

type Likelihoods = Readonly<Record<ClipClass, number>>;

/** What another clip of a camera says about how it records. */
export interface OtherClip {
  /** How likely it is each of the classes. */
  likely: Likelihoods;
  /** Its levels and curve, if it is flat. */
  curve: Correction;
  /** Gains of each channel in linear light (natural logarithms) that would make its white right, if that is wrong. */
  gain: Vec3;
  /** Its cells, of a frame or more. */
  grids: readonly Grid[];
}

/**
 * How likely it is that a clip was recorded otherwise than the others of its camera, flat or not. Of made clips of the development
 * part 50 to 92 % of flat recordings are known as such by themselves, with four others recorded alike 92 to 100 % with 0.15 or 0.3;
 * those of haze alone as not flat 50 to 75, 92 to 96 and 71 to 92 %. Where all others were recorded otherwise, 2 of 32 good clips
 * were taken for flat with 0.15, 1 with 0.3.
 */
const OTHERWISE = 0.3;
/** How likely a clip is flat before anything is seen: the classes were learned with as many of each. */
const BEFORE = [0.2, 0.8];
/**
 * How many others a clip's own levels and curve count for. With 1, 2 and 4, flat clips with four others recorded alike come to
 * 0.64, 0.62 and as much as with 2 of untouched, by themselves to 0.67; with four of another flat curve to 0.85 with 2, 0.77 with
 * 4, by themselves to 0.71.
 */
const OWN = 4;

/** The same of its white: it is set by hand and left, or found by the camera for each clip (judged). */
const WHITE_OTHERWISE = 0.3;
/**
 * How far estimates of red and blue against green (natural logarithms of gains) lie from those of other clips with the same
 * white, and of other clips with any. Of 20 made clips of a wrong white (development part) with four others of the same one 0.12
 * and 0.08 leave 0.44 of untouched, by themselves 0.48; with four others that have nothing wrong 0.54 and 0.51. Without a look at
 * how far they lie apart, 24 more such clips came to 0.48 and 0.72, by themselves to 0.57; with it (0.12) to 0.46 and 0.62.
 */
const SAME_WHITE = 0.08;
const ANY_WHITE = 0.4;

/** Another clip is told of as flat from this likelihood on. */
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

/** Looks at other clips of a camera. */
export const readOtherClips = (sights: readonly Sight[]): OtherClip[] =>
  sights.map(({ code }) => {
    const size = 3 * GRID_CELLS;
    return readGrids(Array.from({ length: code.length / size }, (_, i) => code.subarray(i * size, (i + 1) * size)));
  });

const flatOnes = (others: readonly OtherClip[]): OtherClip[] => others.filter(({ likely }) => likely.flat >= AS_FLAT);

/** The others that are flat, after the known conversion of a clip, as standard video. */
export const othersAsStandard = (others: readonly OtherClip[], convert: (grid: Grid) => Grid): OtherClip[] =>
  flatOnes(others).map(({ grids }) => readGrids(grids.map(convert)));

/**
 * The others that are flat, converted as a clip is: how likely each hid haze, a wrong white or nothing, and its white. Of 20 made
 * flat clips of a wrong white (development part) with four others of the same this leaves 0.60 of untouched, without it 0.63.
 */
export const convertedOthers = (others: readonly OtherClip[], convert: (grid: Grid) => Grid): OtherClip[] =>
  flatOnes(others).map((other) => {
    const grids = other.grids.map(convert);
    const evidence = evidenceOf(grids);
    const likely = { water: 0, flat: 0, ...hiddenLikelihoods(evidence) };
    return { ...other, grids, likely, gain: estimate('white', evidence).correction.gain };
  });

const chromaOf = (gain: Readonly<Vec3>): [number, number] => [gain[0] - gain[1], gain[2] - gain[1]];

/** How much another clip says about white: little where it is flat, hazy or under water. */
const weightOf = ({ likely }: OtherClip): number => likely.white + likely.good;

/** Mean of red and blue against green over clips, each counted by its weight. */
function meanChroma(list: readonly { gain: Readonly<Vec3>; weight: number }[]): [number, number] {
  const weights = shares(list.map((c) => c.weight));
  return [0, 1].map((k) => list.reduce((s, c, j) => s + weights[j] * chromaOf(c.gain)[k], 0)) as [number, number];
}

/** How likely a clip has a white of its own, by how far its estimate lies from those of the others. */
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

/** Takes from a clip's likelihoods of a wrong white and of none what others of its camera say. */
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
 * How likely a clip is each of the classes, given others of its camera, which are most likely as flat as it is, and of one white.
 * `gain`: what would make its own white right.
 */
export function likelihoodsWithOthers(
  own: Likelihoods,
  gain: Readonly<Vec3>,
  others: readonly OtherClip[],
): Likelihoods {
  if (others.length === 0) return own;
  const take = (now: readonly number[], other: readonly number[]): number[] => withOther(now, other, BEFORE, OTHERWISE);
  // All others together are one witness: that they agree with each other does not make this one less likely to differ.
  const told = others.map(({ likely }) => [likely.flat, 1 - likely.flat]).reduce(take, BEFORE);
  const [flat, not] = take([own.flat, 1 - own.flat], told);
  const rest = not / Math.max(1e-9, 1 - own.flat);
  const white = whitesWithOthers(own, gain, others);
  const classes = Object.keys(own) as ClipClass[];
  const all = shares(classes.map((c) => (c === 'flat' ? flat : white[c] * rest)));
  return Object.fromEntries(classes.map((c, k) => [c, all[k]])) as Record<ClipClass, number>;
}

/** A correction of a flat recording whose levels and curve are those of all clips of a camera that are flat. */
export function curveWithOthers(own: Correction, others: readonly OtherClip[]): Correction {
  const all = [{ flat: OWN, curve: own }, ...others.map(({ likely, curve }) => ({ flat: likely.flat, curve }))];
  const weights = shares(all.map(({ flat }) => flat));
  const mean = (key: 'black' | 'widen' | 'open'): number =>
    all.reduce((s, { curve }, k) => s + weights[k] * curve[key], 0);
  return { ...own, black: mean('black'), widen: mean('widen'), open: mean('open') };
}

/** How many others have a wrong white that seems to be a clip's own. */
export const withSameWhite = (gain: Readonly<Vec3>, others: readonly OtherClip[]): number =>
  others.filter((other) => other.likely.white >= 0.5 && ownWhite(gain, [other]) < 0.5).length;

/** Light of a neutral that gains make white, as natural logarithm of its luminance. */
const levelOf = (gain: Readonly<Vec3>): number =>
  Math.log(gain.reduce((sum, g, c) => sum + LUMINANCE[c] * Math.exp(-g), 0));

/** A correction of a wrong white whose colour is that of all clips of a camera, as far as this one seems to have their white. */
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
