import type { SmallPicture } from '../fields/smallPicture';
import { veilFeatures, veilShares } from '../fields/veilMap';
import { decode709 } from '../colour/transferTables';
import type { ClipDive } from '../model/diveLog';
import { newStep, type Step } from '../model/grade';
import { isStandard, PROFILES, type Profile } from '../model/profile';
import { compile, through as opsThrough } from '../program/compile';
import type { Correction, Fault } from './correction';
import { CLASSES, estimate, evidenceOf, gainsOver, likelihoods, type ClipClass, type Evidence } from './estimate';
import { GRID_HEIGHT, GRID_WIDTH, gridOf, type Grid } from './grid';
import { noiseIn, type NoiseCovariance } from './noise';
import { apart, noiseAfter, outcomeOf, type Outcome } from './outcome';
import { median, spread } from './readFrames';
import { POSSIBLE, settingOf } from './possible';
import { isTagged, recogniseProfile, sightOf, type Recognised } from './recognise';
import type { Setting } from './settings';
import { asSteps, exposureReason, percent, saturationReason, SOFT, stepsOf } from './stepsOf';

/** A small picture of a clip, and when. */
export interface ClipFrame {
  small: SmallPicture;
  /** Seconds from the clip's first frame. */
  seconds: number;
  /** Noise of its channels, see `noise.ts`, where it was measured. */
  noise?: NoiseCovariance;
}

/** What is known of a clip besides its pictures. */
export interface Known {
  camera?: 'action' | 'drone' | 'dive' | 'phone' | 'other';
  depth: number;
  /** Transfer tag as written in the file. */
  transfer: string | null;
  /** Profiles of one's own, beside those that come with the application. */
  profiles?: readonly Profile[];
  /** Where it was filmed, if a person said so. */
  setting?: Setting;
  /** Its dive log, and where in it the clip begins. */
  dive?: ClipDive | null;
}

/** One step that would mend a clip, and why. */
export interface Proposal {
  step: Step;
  /** A sentence with numbers. */
  reason: string;
}

/** One explanation of how a clip looks, and what would mend it. */
export interface Explanation {
  found: ClipClass;
  /** How likely it is among those that are possible, 0–1. */
  likelihood: number;
  proposals: Proposal[];
}

export interface FirstPass {
  /** Where it was filmed: as said, or as it seems. */
  setting: Setting;
  /** The best first; the others can be had instead. */
  explanations: Explanation[];
}

/** Frames that stand for a clip. */
const READ = 6;

// — conversion —

/** What a camera records flat with (common practice: cinema bits mean log), where the frames alone do not settle it. */
const BY_CAMERA: Partial<Record<NonNullable<Known['camera']>, { name: string; bits: number }>> = {
  drone: { name: 'Drone log, 10 bit', bits: 10 },
  action: { name: 'Action camera flat', bits: 8 },
};
/** A camera's own profile is taken from this likelihood of a flat recording on. */
const FLAT = 0.5;
/** … and where it has this share of what all known profiles have. */
const ALLOWED = 0.15;
/** Where black and white of converted footage can lie; outside, it was recorded with something else. */
const CONVERTED = { black: [-0.03, 0.3], white: [0.6, 1.25] } as const;
const within = (v: number, [low, high]: readonly [number, number]): boolean => v >= low && v <= high;

/** The profile that a clip was recorded with, where that is sure enough to be proposed. */
function recognised(raw: readonly Grid[], evidence: Evidence, known: Known): Recognised | undefined {
  const { camera, depth, transfer, profiles = [] } = known;
  const { ranked, unknown, sure } = recogniseProfile(sightOf(raw, depth), [...PROFILES, ...profiles], transfer);
  const { flat, haze } = likelihoods(evidence);
  // A tag is taken at its word; pictures alone must look flat besides.
  if (sure && (isStandard(ranked[0].profile) || isTagged(ranked[0].profile, transfer) || flat >= FLAT))
    return ranked[0];
  const guess = camera ? BY_CAMERA[camera] : undefined;
  if (!guess || depth < guess.bits || flat + haze < FLAT) return undefined;
  return ranked.find((r) => r.profile.name === guess.name && r.likelihood >= ALLOWED * (1 - unknown));
}

function proposeConversion(
  frames: readonly ClipFrame[],
  raw: readonly Grid[],
  evidence: Evidence,
  known: Known,
): Proposal | null {
  const found = recognised(raw, evidence, known);
  if (!found || isStandard(found.profile)) return null;
  const step = newStep('convert', 'first-convert', { profile: found.profile });
  const after = outcomeOf(frames, [step]);
  if (!within(after.black, CONVERTED.black) || !within(after.white, CONVERTED.white)) return null;
  return { step, reason: `${found.profile.name}, ${percent(Math.min(0.99, found.likelihood))} sure. ${found.reason}` };
}

// — explanations —

/** How much more or less likely a class is with a camera, than without knowing it (common practice). */
const BY_KIND: Partial<Record<NonNullable<Known['camera']>, Partial<Record<ClipClass, number>>>> = {
  dive: { water: 6, haze: 0.1 },
  drone: { water: 0.02, haze: 1.5 },
};
/** With a dive log the clip was all but surely filmed under water. */
const WITH_LOG = 20;
/** Where somebody says haze, a recording must look all the flatter to be taken for flat. */
const UNLESS_FLAT = 0.3;
/** A clip that may well be good is left alone from this likelihood on. */
const GOOD_ENOUGH = 0.25;
/** After a conversion: who records flat sets white by hand as well, and gets it wrong more often (common practice). */
const GOOD_CONVERTED = 0.4;
/** Changes of less than this (mean CIEDE2000) aren't worth a step: about what is just noticed. */
const NOTICED = 1.5;
/** Other explanations are offered from this likelihood on, so many at most. */
const OFFERED = 0.08;
const OTHERS = 2;

function weigh(
  evidence: Evidence,
  { camera, setting = 'unsure', dive }: Known,
): { found: ClipClass; likelihood: number }[] {
  const own = likelihoods(evidence);
  const weights = CLASSES.map((c) => {
    const kind = (camera && BY_KIND[camera]?.[c]) ?? 1;
    const log = c === 'water' && dive ? WITH_LOG : 1;
    const answer = setting === 'haze' && c === 'flat' ? UNLESS_FLAT : 1;
    return POSSIBLE[setting].includes(c) ? own[c] * kind * log * answer : 0;
  });
  const sum = weights.reduce((a, w) => a + w);
  return CLASSES.map((found, k) => ({ found, likelihood: weights[k] / Math.max(1e-9, sum) }))
    .filter(({ found }) => POSSIBLE[setting].includes(found))
    .toSorted((a, b) => b.likelihood - a.likelihood);
}

/** The likeliest, unless the clip may well be good: then it is left alone. Ranked, the likeliest first. */
function choose<R extends { found: ClipClass; likelihood: number }>(ranked: readonly R[], enough: number): R {
  const good = ranked.find(({ found }) => found === 'good');
  return good && good.likelihood >= enough ? good : ranked[0];
}

/** What a flat recording may hide, and how likely it must be once the recording is converted by a curve that was guessed. */
const CLEARLY: Partial<Record<ClipClass, number>> = { haze: 0.7, white: 0.45 };
const HIDDEN: readonly ClipClass[] = ['haze', 'white', 'good'];

/** Ids told apart where two steps of a kind follow each other. */
const numbered = (proposals: readonly Proposal[]): Proposal[] =>
  proposals.map((p, i) =>
    proposals.findIndex((q) => q.step.id === p.step.id) < i ? { ...p, step: { ...p.step, id: `${p.step.id}-2` } } : p,
  );

/** Mean share of the veil over frames. */
function hazeShareOf(grids: readonly Grid[], { air }: Correction): number {
  if (!air) return 0;
  let [sum, count] = [0, 0];
  for (const grid of spread(grids, 2)) {
    const picture = { width: GRID_WIDTH, height: GRID_HEIGHT, rgb: grid.map(decode709) };
    for (const share of veilShares(veilFeatures(picture, air))) {
      sum += share;
      count += 1;
    }
  }
  return sum / Math.max(1, count);
}

/** Noise of red after the water is taken off, over green's before, that is borne; blue's is seen less. */
const RED_NOISE = 1.8;
const BLUE_NOISE = 3;
const [LEAST_RAISED, MOST_RAISED] = [0.2, 5];
const LIMIT_STEP = 0.25;
/** Deviation of the noise where it was not measured: an 8-bit camera's in daylight, alike in all channels. */
const USUAL_NOISE = 0.006;
const USUAL: NoiseCovariance = [0, 1, 2, 3, 4, 5, 6, 7, 8].map((k) => (k % 4 === 0 ? USUAL_NOISE ** 2 : 0));

/** A channel that lies at black or below in this share of the cells is lost: all of it is rebuilt. */
const LOST_CHANNEL = 0.25;
/** Densest haze that is still taken off, by its transmission; the least and the most that it is held to. */
const [LEAST_FLOOR, MOST_FLOOR] = [0.08, 0.4];
const FLOOR_STEP = 0.04;
/** Noise of red after haze is taken off, over green's before, that is borne; and noise that nobody sees: a code value of 8 bits. */
const HAZE_NOISE = 2;
const UNSEEN = 1 / 219;

/** Share of a frame's cells in which a channel lies at black or below. */
function lostShare({ small: { code } }: ClipFrame, channel: 0 | 2): number {
  let lost = 0;
  for (let i = channel; i < code.length; i += 3) if (code[i] <= 0) lost += 1;
  return (3 * lost) / code.length;
}

/** Noise of a clip's channels as it was measured, else the usual. */
function noiseOfClip(frames: readonly ClipFrame[]): NoiseCovariance {
  const measured = frames.flatMap((f) => (f.noise && f.noise[4] > 0 ? [f.noise] : []));
  return measured.length > 0 ? USUAL.map((_, k) => median(measured.map((n) => n[k]))) : USUAL;
}

/** Leaves so much of dense haze that red's noise, through all steps, is borne. */
function quietHaze(frames: readonly ClipFrame[], given: readonly Step[], proposals: Proposal[]): Proposal[] {
  const [frame] = spread(frames, 2).slice(-1);
  const noise = noiseOfClip(frames);
  let list = proposals;
  for (let floor = LEAST_FLOOR; floor <= MOST_FLOOR; floor += FLOOR_STEP) {
    list = list.map((p) =>
      p.step.kind === 'haze' ? { ...p, step: { ...p.step, params: { ...p.step.params, floor } } } : p,
    );
    const { red } = noiseAfter(frame, [...given, ...asSteps(list)], noise);
    if (red <= HAZE_NOISE || red * noiseIn(noise, 1) <= UNSEEN) break;
  }
  return list;
}

/**
 * Holds back what a water step raises red and blue by until their noise, through all steps, is borne; what is held back is
 * rebuilt from green.
 */
function quietened(frames: readonly ClipFrame[], given: readonly Step[], proposals: Proposal[]): Proposal[] {
  const [frame] = spread(frames, 2).slice(-1);
  const noise = noiseOfClip(frames);
  let list = proposals;
  for (const [key, channel, at, most] of [
    ['limitRed', 'red', 0, RED_NOISE],
    ['limitBlue', 'blue', 2, BLUE_NOISE],
  ] as const) {
    const from = lostShare(frame, at) > LOST_CHANNEL ? LEAST_RAISED : MOST_RAISED;
    for (let limit = from; limit >= LEAST_RAISED; limit -= LIMIT_STEP) {
      list = list.map((p) =>
        p.step.kind === 'water' ? { ...p, step: { ...p.step, params: { ...p.step.params, [key]: limit } } } : p,
      );
      if (noiseAfter(frame, [...given, ...asSteps(list)], noise)[channel] <= most) break;
    }
  }
  return list;
}

/** A first pass may lose so much more than the file had lost. */
const LOST = 0.0025;
/** Colours beyond this share of the vectorscope's radius are garish (as the hold check has it), and are held to it. */
const GARISH = 0.8;
/** Beyond black, where saturated darks go, more is borne; less saturation must bring it down by this much to be worth it. */
const UNDER = 0.02;
const HELPED = 0.9;
const STEP_DOWN = 0.15;
const MOST_DOWN = 8;

/** Measures proposals on the frames, and weakens what would clip or turn garish. */
function judged(
  frames: readonly ClipFrame[],
  given: readonly Step[],
  proposals: Proposal[],
  before: Outcome,
): { proposals: Proposal[]; outcome: Outcome } {
  let list = proposals;
  let outcome = outcomeOf(frames, [...given, ...asSteps(list)]);
  /** Changes one number of the step of a kind, which is made where there is none, and measures again. */
  const change = (kind: 'range' | 'saturation', key: string, by: (v: number) => number): void => {
    if (!list.some((p) => p.step.kind === kind)) list = [...list, { step: newStep(kind, `first-${kind}`), reason: '' }];
    list = list.map((p) => {
      if (p.step.kind !== kind) return p;
      const params = { ...p.step.params, [key]: by(p.step.params[key] as number) };
      const held = exposureReason(params).replace(/, to where.*/, ', so that nothing bright is lost.');
      const reason = kind === 'range' ? held : saturationReason(params);
      return { step: { ...p.step, params: kind === 'range' ? { ...params, soft: SOFT } : params }, reason };
    });
    outcome = outcomeOf(frames, [...given, ...asSteps(list)]);
  };
  const weaker = (amount: number): number => Math.max(0.3, amount * 0.92);
  for (let k = 0; k < MOST_DOWN && outcome.chroma > Math.max(GARISH, before.chroma); k += 1)
    change('saturation', 'amount', weaker);
  for (let k = 0; k < MOST_DOWN && outcome.under > before.under + UNDER; k += 1) {
    const was = [list, outcome] as const;
    change('saturation', 'amount', weaker);
    // Not by its colour, then: what is dark stays dark.
    if (outcome.under > was[1].under * HELPED) {
      [list, outcome] = was;
      break;
    }
  }
  for (let k = 0; k < MOST_DOWN && outcome.over > before.over + LOST; k += 1)
    change('range', 'exposure', (v) => v - STEP_DOWN);
  return { proposals: list, outcome };
}

/**
 * What would mend a clip: ordinary steps, in working order, each with its reason; none for a clip that is good. Possible
 * explanations (water, haze, a flat recording, a wrong white, nothing wrong) compete by how likely the clip's pictures
 * make them; each is worked out, tried on the frames and weakened where it would clip or turn garish. `given` are steps
 * that come before and stay: a conversion. Deterministic. `frames`: a few dozen, spread over the clip.
 */
export function firstPass(
  frames: readonly ClipFrame[],
  given: readonly Step[] = [],
  known: Known = { depth: 8, transfer: null },
): FirstPass {
  const some = spread(frames, READ);
  const grids = (steps: readonly Step[]): Grid[] =>
    some.map(({ small, seconds }) => {
      const { ops } = compile(steps, seconds);
      if (ops.length === 0) return gridOf(small);
      const run = opsThrough(ops);
      return gridOf(small, (rgb) => run(rgb));
    });
  // A conversion that was chosen stays; one that converts nothing was not.
  const chosen = given.some((s) => s.kind === 'convert' && compile([s], 0).ops.length > 0);
  const raw = grids(given);
  const conversion = chosen ? null : proposeConversion(frames, raw, evidenceOf(raw), known);
  const converted = conversion ? [...given, conversion.step] : [...given];
  const seen = conversion ? grids(converted) : raw;
  const evidence = evidenceOf(seen);
  const isConverted = chosen || conversion !== null;

  /** What would mend what is left after some steps, if it had a fault; nothing where that would hardly be noticed. */
  const mend = (fault: Fault, after: readonly Step[], cells: readonly Grid[], worn: Evidence): Proposal[] => {
    const { correction } = estimate(fault, worn);
    const gains = fault === 'water' ? gainsOver('water', worn) : [];
    const worked = stepsOf(fault, correction, {
      hazeShare: hazeShareOf(cells, correction),
      frames: gains.map((gain, i) => ({ seconds: some[i].seconds, gain })),
      dive: known.dive ?? null,
      seconds: frames[frames.length - 1].seconds,
    });
    const quiet = fault === 'water' ? quietened : fault === 'haze' ? quietHaze : null;
    const proposals = quiet ? quiet(frames, after, worked) : worked;
    const before = outcomeOf(frames, after);
    const { proposals: held, outcome } = judged(frames, after, proposals, before);
    return apart(before, outcome) < NOTICED ? [] : held;
  };
  /** A conversion alone, without what it would push beyond white. */
  const unclipped = (start: Proposal[]): Proposal[] =>
    start.length === 0 ? [] : judged(frames, given, start, outcomeOf(frames, given)).proposals;
  const explain = ({ found, likelihood }: { found: ClipClass; likelihood: number }): Explanation => {
    const start = conversion ? [conversion] : [];
    if (found === 'good') return { found, likelihood, proposals: unclipped(start) };
    const first = mend(found, converted, seen, evidence);
    if (found !== 'flat') return { found, likelihood, proposals: [...start, ...first] };
    // What a flat recording hid shows once it is converted: haze, a wrong white.
    const done = [...converted, ...asSteps(first)];
    const now = grids(done);
    const worn = evidenceOf(now);
    const left = weigh(worn, { ...known, setting: 'unsure' }).filter((r) => HIDDEN.includes(r.found))[0];
    const second =
      left.found === 'good' || left.likelihood < (CLEARLY[left.found] ?? 0)
        ? []
        : mend(left.found as Fault, done, now, worn);
    return { found, likelihood, proposals: numbered([...first, ...second]) };
  };
  // What is converted is not flat any more.
  const ranked = weigh(evidence, known).filter(({ found }) => !(isConverted && found === 'flat'));
  const best = choose(ranked, isConverted ? GOOD_CONVERTED : GOOD_ENOUGH);
  const rest = ranked.filter((r) => r !== best && r.likelihood >= OFFERED).slice(0, OTHERS);
  return {
    setting: known.setting && known.setting !== 'unsure' ? known.setting : settingOf(best.found),
    explanations: [best, ...rest].map(explain),
  };
}
