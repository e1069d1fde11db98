import type { Vec3 } from '../colour/matrix';
import { readPerceptron, run, type Perceptron, type StoredPerceptron } from '../learned/perceptron';
import classesStored from '../learned/classes.json';
import flatStored from '../learned/flat.json';
import hiddenStored from '../learned/hidden.json';
import hazeStored from '../learned/haze.json';
import waterStored from '../learned/water.json';
import whiteStored from '../learned/white.json';
import { anchorsOf, correctionOf, FAULTS, OUTPUTS, type Anchors, type Correction, type Fault } from './correction';
import { features } from './features';
import type { Grid } from './grid';

/** Classes of clips. */
export const CLASSES = [...FAULTS, 'good'] as const;
export type ClipClass = (typeof CLASSES)[number];

/** Faults that a flat recording may hide until it is converted. */
export const HIDDEN = ['haze', 'white', 'good'] as const satisfies readonly ClipClass[];
export type Hidden = (typeof HIDDEN)[number];

const several = (stored: unknown): Perceptron[] => (stored as StoredPerceptron[]).map(readPerceptron);
const classifiers = several(classesStored);
const hiddenClassifiers = several(hiddenStored);
const correctors: Record<Fault, Perceptron[]> = {
  water: several(waterStored),
  haze: several(hazeStored),
  flat: several(flatStored),
  white: several(whiteStored),
};

/** Inputs of a clip's estimates: features and anchors per frame, and mean anchors. */
export interface Evidence {
  features: Float32Array[];
  each: Anchors[];
  anchors: Anchors;
}

const meanOf = (list: readonly ArrayLike<number>[]): Float32Array =>
  new Float32Array(list[0].length).map((_, k) => list.reduce((s, v) => s + v[k], 0) / list.length);

/** Collects evidence from the frames of a clip, at least one. */
export function evidenceOf(grids: readonly Grid[]): Evidence {
  const anchors = grids.map(anchorsOf);
  const mean = (pick: (a: Anchors) => Vec3): Vec3 => Array.from(meanOf(anchors.map(pick))) as Vec3;
  return {
    features: grids.map(features),
    each: anchors,
    anchors: {
      black: anchors.reduce((s, a) => s + a.black, 0) / anchors.length,
      low: mean((a) => a.low),
      high: mean((a) => a.high),
      air: mean((a) => a.air),
    },
  };
}

function classify<C extends ClipClass>(
  by: readonly Perceptron[],
  classes: readonly C[],
  { features: frames }: Evidence,
): Record<C, number> {
  const sums = classes.map(() => 0);
  const logs = by.map((p) => meanOf(frames.map((f) => run(p, f))));
  for (const out of logs) {
    const most = Math.max(...out);
    const p = out.map((v) => Math.exp(v - most));
    const total = p.reduce((a, v) => a + v);
    p.forEach((v, k) => (sums[k] += v / total / logs.length));
  }
  return Object.fromEntries(classes.map((c, k) => [c, sums[k]])) as Record<C, number>;
}

/** Likelihood of each class; they add up to 1. */
export const likelihoods = (evidence: Evidence): Record<ClipClass, number> => classify(classifiers, CLASSES, evidence);

/**
 * Likelihood of each hidden fault of a flat recording; they add up to 1. `evidence`: of the frames after conversion
 * with the estimated curve, which has errors of its own.
 */
export const hiddenLikelihoods = (evidence: Evidence): Record<Hidden, number> =>
  classify(hiddenClassifiers, HIDDEN, evidence);

/** A correction, and the disagreement of the estimators whose mean it is. */
export interface Estimate {
  correction: Correction;
  /** Standard deviation of red and blue gains relative to green's, natural logarithms. */
  spread: number;
}

/** The correction of a clip, assuming it has this fault. */
export function estimate(fault: Fault, { features: frames, anchors }: Evidence): Estimate {
  const outputs = correctors[fault].map((p) => meanOf(frames.map((f) => run(p, f))));
  const each = outputs.map((o) => correctionOf(fault, o, anchors));
  const chroma = each.map(({ gain }) => [gain[0] - gain[1], gain[2] - gain[1]]);
  const spread = Math.sqrt(
    [0, 1].reduce((sum, k) => {
      const mean = chroma.reduce((s, v) => s + v[k], 0) / chroma.length;
      return sum + chroma.reduce((s, v) => s + (v[k] - mean) ** 2, 0) / chroma.length;
    }, 0),
  );
  const mean = new Float32Array(OUTPUTS).map((_, k) => outputs.reduce((s, o) => s + o[k], 0) / outputs.length);
  return { correction: correctionOf(fault, mean, anchors), spread };
}

/** Gains per frame, each estimated from that frame alone. */
export const gainsOver = (fault: Fault, { features: frames, each }: Evidence): Vec3[] =>
  frames.map((f, i) => {
    const outputs = correctors[fault].map((p) => run(p, f));
    return correctionOf(fault, meanOf(outputs), each[i]).gain;
  });
