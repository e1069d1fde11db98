import type { SmallPicture } from '../fields/smallPicture';
import type { Vec3 } from '../colour/matrix';
import { veilFeatures, veilShares } from '../fields/veilMap';
import type { ClipDive } from '../model/diveLog';
import type { Step } from '../model/grade';
import type { Profile } from '../model/profile';
import { compile } from '../program/compile';
import { through as opsThrough } from '../program/evaluate';
import {
  AS_FLAT,
  convertedOthers,
  curveWithOthers,
  likelihoodsWithOthers,
  othersAsStandard,
  readOtherClips,
  whitesWithOthers,
  whiteWithOthers,
  withSameWhite,
  type OtherClip,
} from './otherClips';
import type { Correction, Fault } from './correction';
import { proposeConversion } from './conversion';
import {
  estimate,
  evidenceOf,
  gainsOver,
  hiddenLikelihoods,
  likelihoods,
  type ClipClass,
  type Evidence,
} from './estimate';
import { GRID_CELLS, gridOf, linearOf, throughCells, type Grid } from './grid';
import type { NoiseCovariance } from './noise';
import { OPEN, openCells, withoutOpenWater } from './openCells';
import { apart, outcomeOf } from './outcome';
import { spread } from './readFrames';
import type { Sight } from './recognise';
import { POSSIBLE, settingOf } from './possible';
import { deepened, judged, quietened, withShoulder } from './restrain';
import type { Setting } from './settings';
import { asSteps, atStrength, colourSteps, APPLIED, keepingOpenWater, stepsButColour } from './stepsOf';

/** A small picture of a clip, with its time. */
export interface ClipFrame {
  small: SmallPicture;
  /** Seconds from the clip's first frame. */
  seconds: number;
  /** Noise covariance, see `noise.ts`, if it was measured. */
  noise?: NoiseCovariance;
}

/** Known properties of a clip besides its pictures. */
export interface Known {
  camera?: 'action' | 'drone' | 'dive' | 'phone' | 'other';
  depth: number;
  /** Transfer tag as written in the file. */
  transfer: string | null;
  /** The user's own profiles, in addition to the built-in ones. */
  profiles?: readonly Profile[];
  /**
   * Evidence from other clips of its camera with the same depth and transfer tag: for each the cells of one or more
   * frames.
   */
  otherClips?: readonly Sight[];
  /** Where it was filmed, if the user said so. */
  setting?: Setting;
  /** Its dive log, and the clip's offset in it. */
  dive?: ClipDive | null;
}

/** One proposed step, and the reason. */
export interface Proposal {
  step: Step;
  /** A sentence with numbers. */
  reason: string;
}

/** One explanation of how a clip looks, with the steps that mend it. */
export interface Explanation {
  found: ClipClass;
  /** Likelihood among the possible ones, 0–1. */
  likelihood: number;
  proposals: Proposal[];
}

export interface FirstPass {
  /** Where it was filmed: as stated by the user, or as detected. */
  setting: Setting;
  /** Best first; the others are offered as alternatives. */
  explanations: Explanation[];
  /** Further possible explanations that were not computed, or not yet. */
  awaited: ClipClass[];
}

/** Number of frames read from a clip. */
const READ = 6;

/** Likelihood ratio of a class given the camera's kind (common practice). */
const BY_KIND: Partial<Record<NonNullable<Known['camera']>, Partial<Record<ClipClass, number>>>> = {
  dive: { water: 6, haze: 0.1 },
  drone: { water: 0.02, haze: 1.5 },
};
/** With a dive log the clip was almost certainly filmed under water. */
const WITH_LOG = 20;
/**
 * If the user said haze, a recording must look flatter than otherwise to count as flat. On the part to develop on: with
 * 0.3 flat recordings of haze came to 0.84 of untouched, with this or 1 to 0.78; with 1 a third of those of haze alone
 * were taken for flat, now a fifth.
 */
const UNLESS_FLAT = 0.5;
/** A clip is left alone if it is good with at least this likelihood. */
const GOOD_ENOUGH = 0.25;
/**
 * After a conversion: people who record flat also set white manually, and get it wrong more often (common practice).
 */
const GOOD_CONVERTED = 0.4;
/** Changes below this (mean CIEDE2000) are not worth a step: about a just noticeable difference. */
const NOTICED = 1.5;
/** Minimum likelihood of alternatives, and their maximum number. */
const OFFERED = 0.08;
const OTHERS = 2;

/** Possible explanations given where the clip was filmed, likeliest first, from its pictures and other knowledge. */
function weigh<C extends ClipClass>(
  own: Readonly<Record<C, number>>,
  { camera, setting = 'unsure', dive }: Known,
): { found: C; likelihood: number }[] {
  const possible = (Object.keys(own) as C[]).filter((c) => POSSIBLE[setting].includes(c));
  const weights = possible.map((c) => {
    const kind = (camera && BY_KIND[camera]?.[c]) ?? 1;
    const log = c === 'water' && dive ? WITH_LOG : 1;
    const answer = setting === 'haze' && c === 'flat' ? UNLESS_FLAT : 1;
    return own[c] * kind * log * answer;
  });
  const sum = weights.reduce((a, w) => a + w, 0);
  return possible
    .map((found, k) => ({ found, likelihood: weights[k] / Math.max(1e-9, sum) }))
    .toSorted((a, b) => b.likelihood - a.likelihood);
}

/** The likeliest explanation, unless the clip may well be good: then it is left alone. Sorted, likeliest first. */
function choose<R extends { found: ClipClass; likelihood: number }>(ranked: readonly R[], enough: number): R {
  const good = ranked.find(({ found }) => found === 'good');
  return good && good.likelihood >= enough ? good : ranked[0];
}

/**
 * From this likelihood on nothing else is changed about a converted flat recording. On photographs of the part to
 * develop on that the estimate was not learned with, flat recordings with nothing else wrong come out best with a lower
 * value (0.58 of untouched, at 0.5 0.60), those of haze or a wrong white with a higher one (0.65 and 0.64, at 0.15 0.65
 * and 0.66).
 */
const GOOD_HIDDEN = 0.3;

/** A correction combined with other clips of the camera, and the number of clips that agree. */
function pooled(
  fault: Fault,
  own: Correction,
  others: readonly OtherClip[],
): { correction: Correction; others: number } {
  if (fault === 'flat')
    return {
      correction: curveWithOthers(own, others),
      others: others.filter(({ likely }) => likely.flat >= AS_FLAT).length,
    };
  if (fault === 'white') return { correction: whiteWithOthers(own, others), others: withSameWhite(own.gain, others) };
  return { correction: own, others: 0 };
}

const meanOf = (values: ArrayLike<number>): number =>
  Array.from(values).reduce((sum, v) => sum + v, 0) / Math.max(1, values.length);

/** Mean share of the veil over frames. */
const hazeShareOf = (grids: readonly Grid[], { air }: Correction): number =>
  air ? meanOf(spread(grids, 2).map((grid) => meanOf(veilShares(veilFeatures(linearOf(grid), air))))) : 0;

/** Evidence from frames with open water filled in by other cells, and the share of open water. */
function besidesOpenWater(grids: readonly Grid[]): { openShare: number; evidence: Evidence } {
  const shares = grids.map(openCells);
  return {
    openShare: meanOf(shares.map((share) => share.filter((v) => v >= OPEN).length / GRID_CELLS)),
    evidence: evidenceOf(grids.map((grid, i) => withoutOpenWater(grid, shares[i]))),
  };
}

/**
 * Proposes steps for a clip, in working order, each with its reason; none for a good clip. Possible explanations
 * (water, haze, a flat recording, a wrong white, nothing wrong) compete by likelihood given the clip's pictures; each
 * is computed, tried on the frames and weakened where it would clip or turn garish. `given`: earlier steps that stay,
 * such as a conversion. Deterministic. `frames`: a few dozen, spread over the clip. `onBest` is called with the best
 * explanation as soon as it is known; each alternative takes as long again, and none is computed without `others`.
 */
export function firstPass(
  frames: readonly ClipFrame[],
  given: readonly Step[] = [],
  known: Known = { depth: 8, transfer: null },
  { others = true, onBest }: { others?: boolean; onBest?: (pass: FirstPass) => void } = {},
): FirstPass {
  const some = spread(frames, READ);
  const grids = (steps: readonly Step[]): Grid[] =>
    some.map(({ small, seconds }) => {
      const { ops } = compile(steps, seconds);
      if (ops.length === 0) return gridOf(small);
      const run = opsThrough(ops);
      return gridOf(small, (rgb) => run(rgb));
    });
  // A conversion chosen by the user stays; one that has no effect was not chosen.
  const chosen = given.some((s) => s.kind === 'convert' && compile([s], 0).ops.length > 0);
  const raw = grids(given);
  const recorded = evidenceOf(raw);
  const whiteOf = (of: Evidence): Vec3 => estimate('white', of).correction.gain;
  const asRecorded = readOtherClips(known.otherClips ?? []);
  const likely = likelihoodsWithOthers(likelihoods(recorded), whiteOf(recorded), chosen ? [] : asRecorded);
  const conversion = chosen ? null : proposeConversion(frames, raw, likely, known);
  const converted = conversion ? [...given, conversion.step] : [...given];
  const seen = conversion ? grids(converted) : raw;
  const evidence = conversion ? evidenceOf(seen) : recorded;
  const isConverted = chosen || conversion !== null;
  /** Applies this clip's steps to cells of other clips. */
  const throughSteps = (steps: readonly Step[]): ((grid: Grid) => Grid) => {
    const run = opsThrough(compile(steps, 0).ops);
    return (grid) => throughCells(grid.slice(), (rgb) => run(rgb));
  };
  const beside = isConverted ? othersAsStandard(asRecorded, throughSteps(converted)) : asRecorded;

  /** Strength of the correction: full where a conversion is certain, which leaves less to be mistaken about. */
  const doneOf = (fault: Fault): number => (chosen || conversion?.certain ? 1 : APPLIED[fault]);

  /**
   * Proposes steps, following the given ones and including those in `start`, that mend a remaining fault; none where
   * that would hardly be noticed. `cells` and `worn` are of the frames after all of them; `alike` are other clips of
   * the camera after the same steps.
   */
  const mend = (
    fault: Fault,
    after: readonly Step[],
    cells: readonly Grid[],
    all: Evidence,
    start: readonly Proposal[] = [],
    alike: readonly OtherClip[] = all === evidence ? beside : [],
  ): Proposal[] => {
    const { openShare, evidence: worn } = fault === 'water' ? besidesOpenWater(cells) : { openShare: 0, evidence: all };
    const own = estimate(fault, worn).correction;
    const { correction, others: agree } = pooled(fault, own, alike);
    const gains = fault === 'water' ? gainsOver('water', worn) : [];
    const context = {
      hazeShare: hazeShareOf(cells, correction),
      frames: gains.map((gain, i) => ({ seconds: some[i].seconds, gain })),
      others: agree,
      done: doneOf(fault),
      dive: known.dive ?? null,
      seconds: frames[frames.length - 1].seconds,
    };
    const started = [...after, ...asSteps(start)];
    const body = stepsButColour(fault, correction, context);
    const worked = (greyed: number): Proposal[] => [...body, ...colourSteps(correction, greyed, context.done)];
    // Noise is limited as at full strength: dense haze left for its noise is where the estimate is least certain.
    const before = outcomeOf(frames, after);
    const beforeOwn = start.length ? outcomeOf(frames, started) : before;
    const limited = quietened(fault, frames, started, beforeOwn, worked, start.length > 0);
    const quiet = atStrength(limited, 'haze', context.done);
    const proposals = [...start, ...keepingOpenWater(deepened(fault, frames, started, quiet), openShare)];
    const { proposals: held, outcome } = judged(frames, after, proposals, before);
    return apart(beforeOwn, outcome) < NOTICED ? [] : held;
  };
  /** A conversion alone, without steps that would clip white. */
  const unclipped = (start: Proposal[]): Proposal[] =>
    start.length === 0
      ? []
      : judged(frames, given, withShoulder(frames, given, start), outcomeOf(frames, given)).proposals;
  const explain = ({ found, likelihood }: { found: ClipClass; likelihood: number }): Explanation => {
    const conversions = conversion ? [{ step: conversion.step, reason: conversion.reason }] : [];
    if (found === 'good') return { found, likelihood, proposals: unclipped(conversions) };
    const partly = atStrength(conversions, 'convert', doneOf(found));
    const first = mend(found, [...given, ...asSteps(partly)], seen, evidence);
    if (found !== 'flat')
      return {
        found,
        likelihood,
        proposals: first.length ? withShoulder(frames, given, [...partly, ...first]) : unclipped(conversions),
      };
    // Conversion reveals what a flat recording hid: haze or a wrong white.
    const done = evidenceOf(grids([...converted, ...asSteps(first)]));
    const othersAfter = (proposals: readonly Proposal[]): OtherClip[] =>
      convertedOthers(beside, throughSteps([...converted, ...asSteps(proposals)]));
    const hid = whitesWithOthers(hiddenLikelihoods(done), whiteOf(done), othersAfter(first));
    const left = choose(weigh(hid, known), GOOD_HIDDEN).found;
    if (left === 'good') return { found, likelihood, proposals: first };
    // Levels are estimated along with the hidden fault, replacing those of a recording that hides nothing: each step
    // kind appears once.
    const curve = first.filter((p) => p.step.kind === 'convert');
    const now = grids([...converted, ...asSteps(curve)]);
    const start = atStrength(curve, 'convert', doneOf(left));
    const whole = mend(left, converted, now, evidenceOf(now), start, othersAfter(curve));
    return { found, likelihood, proposals: whole.length ? whole : first };
  };
  // Once converted, a recording is no longer flat.
  const seenAs = isConverted ? whitesWithOthers(likelihoods(evidence), whiteOf(evidence), beside) : likely;
  const ranked = weigh(seenAs, known).filter(({ found }) => !(isConverted && found === 'flat'));
  const best = choose(ranked, isConverted ? GOOD_CONVERTED : GOOD_ENOUGH);
  const rest = ranked.filter((r) => r !== best && r.likelihood >= OFFERED).slice(0, OTHERS);
  const pass: FirstPass = {
    setting: known.setting && known.setting !== 'unsure' ? known.setting : settingOf(best.found),
    explanations: [explain(best)],
    awaited: rest.map(({ found }) => found),
  };
  if (!others) return pass;
  if (rest.length) onBest?.(pass);
  return { ...pass, explanations: [...pass.explanations, ...rest.map(explain)], awaited: [] };
}
