import type { Vec3 } from '@inkavo/core/colour/matrix';
import type { CellFeatures } from '@inkavo/core/fields/samples';
import { MOST_VEILED, veilFeatures } from '@inkavo/core/fields/veilMap';
import { run, type Perceptron } from '@inkavo/core/learned/perceptron';
import {
  anchorsOf,
  correctionOf,
  OUTPUTS,
  type Anchors,
  type Dependence,
  type Fault,
} from '@inkavo/core/reading/correction';
import { features } from '@inkavo/core/reading/features';
import { GRID_CELLS, linearOf } from '@inkavo/core/reading/grid';
import type { CaseKind } from '../cases';
import { random } from '../random';
import type { Sample } from './dataset';
import {
  BLACK,
  chromaLoss,
  correctWithSlopes,
  difference,
  GAIN,
  NUMBERS,
  OPEN,
  SATURATION,
  VEIL,
  WIDEN,
} from './slopes';
import { spreadOf, Trainer } from './trainer';

const HIDDEN = 24;
export const EPOCHS = 30;
const BATCH = 16;
const CELLS = 64;
const RATE = 0.003;
/** Noise added to inputs, in standard deviations, against overfitting. */
const NOISE = 0.08;

/** A sample with the inputs of the estimates. */
export interface Prepared extends Sample {
  features: Float32Array;
  anchors: Anchors;
}

export const prepared = (sample: Sample): Prepared => ({
  ...sample,
  features: features(sample.grid),
  anchors: anchorsOf(sample.grid),
});

const clampSlope = (v: number): number => Math.min(1, Math.max(-1, v));

/** Trains a classifier with this many classes; `classOf` returns a sample's class. */
export function classifier(
  all: readonly Prepared[],
  classes: number,
  classOf: (sample: Prepared) => number,
  seed: number,
): Perceptron {
  const { means, deviations } = spreadOf(all.map((s) => s.features));
  const trainer = new Trainer([means.length, HIDDEN, classes], means, deviations, seed, 0.3);
  const rng = random(seed + 99);
  for (let epoch = 0; epoch < EPOCHS; epoch += 1)
    for (let b = 0; b < all.length / BATCH; b += 1) {
      for (let k = 0; k < BATCH; k += 1) {
        const sample = rng.of(all);
        const out = trainer.forward(sample.features, NOISE / 2);
        const most = Math.max(...out);
        const p = out.map((v) => Math.exp(v - most));
        const sum = p.reduce((a, v) => a + v);
        // Label smoothing.
        const own = classOf(sample);
        trainer.backward(p.map((v, i) => v / sum - (i === own ? 0.95 : 0.05 / (classes - 1))));
      }
      trainer.step(RATE * (1 - epoch / EPOCHS) + 1e-5, 0.01, BATCH);
    }
  return trainer.perceptron;
}

const PLACES: Record<string, number> = { black: BLACK, widen: WIDEN, open: OPEN, saturation: SATURATION };
for (let c = 0; c < 3; c += 1) {
  PLACES[`veil${c}`] = VEIL + c;
  PLACES[`gain${c}`] = GAIN + c;
}

/** Dropout of the hidden units of estimators of corrections. */
const DROPOUT = 0.2;

/** An untrained estimator of corrections. */
export function correctionTrainer(all: readonly Prepared[], seed: number): Trainer {
  const { means, deviations } = spreadOf(all.map((s) => s.features));
  return new Trainer([means.length, HIDDEN, OUTPUTS], means, deviations, seed, DROPOUT);
}

/** Trains the map of a veil as well. */
export interface VeilLesson {
  trainer: Trainer;
  /** Features of the cells, one set per sample. */
  cells: readonly CellFeatures[];
  /** The air's colour stays fixed. */
  fixed: boolean;
}

/** Weights of the kinds in training: own kinds 1, others, which must not be harmed, less. */
export type Lessons = Partial<Record<CaseKind, number>>;

/** Trains an estimator on the outcome of its corrections; for haze `veil` too. */
export function learnCorrection(
  trainer: Trainer,
  fault: Fault,
  shares: Lessons,
  all: readonly Prepared[],
  seed: number,
  epochs: number,
  veil?: VeilLesson,
): void {
  const rng = random(seed + 7);
  const own = all.map((_, i) => i).filter((i) => (shares[all[i].kind] ?? 0) >= 1);
  const others = all.map((_, i) => i).filter((i) => (shares[all[i].kind] ?? 0) > 0 && (shares[all[i].kind] ?? 0) < 1);
  const othersShare = Object.values(shares).reduce((s, v) => s + (v < 1 ? v : 0), 0);
  const out = [0, 0, 0];
  const by = [0, 0, 0];
  const slopes = new Float64Array(3 * NUMBERS);
  const [colours, truths] = [new Float64Array(3 * CELLS), new Float64Array(3 * CELLS)];
  const numbers = new Float64Array(NUMBERS);
  const air = new Float64Array(3);
  for (let epoch = 0; epoch < epochs; epoch += 1) {
    let [total, count] = [0, 0];
    const rate = RATE * (1 - epoch / epochs) + 1e-5;
    for (let b = 0; b < own.length / BATCH; b += 1) {
      for (let k = 0; k < BATCH; k += 1) {
        const index = others.length > 0 && rng.chance(othersShare / (1 + othersShare)) ? rng.of(others) : rng.of(own);
        const sample = all[index];
        const outputs = trainer.forward(sample.features, NOISE);
        const dependences: Dependence[] = [];
        const correction = correctionOf(fault, outputs, sample.anchors, dependences);
        numbers.fill(0);
        air.fill(0);
        // First the gradients of colours, since chroma counts for the picture as a whole; then those of their inputs.
        const chosen = Array.from({ length: CELLS }, () => Math.floor(rng.between(0, GRID_CELLS)));
        const raws = chosen.map((cell) => {
          if (!veil) return 0;
          const { values, count: n } = veil.cells[index];
          return 1 / (1 + Math.exp(-run(veil.trainer.perceptron, values.subarray(cell * n, (cell + 1) * n))[0]));
        });
        const gradient = new Float64Array(3 * CELLS);
        chosen.forEach((cell, j) => {
          correctWithSlopes(sample.grid, 3 * cell, correction, MOST_VEILED * raws[j], out, slopes);
          colours.set(out, 3 * j);
          truths.set(sample.truth.subarray(3 * cell, 3 * cell + 3), 3 * j);
          total += difference(out, sample.truth, 3 * cell, by);
          gradient.set(by, 3 * j);
          count += 1;
        });
        const chroma = new Float64Array(3 * CELLS);
        chromaLoss(colours, truths, chroma);
        chosen.forEach((cell, j) => {
          const share = MOST_VEILED * raws[j];
          correctWithSlopes(sample.grid, 3 * cell, correction, share, out, slopes);
          for (let c = 0; c < 3; c += 1) by[c] = gradient[3 * j + c] + CELLS * chroma[3 * j + c];
          const slope = (p: number): number =>
            by[0] * slopes[p] + by[1] * slopes[NUMBERS + p] + by[2] * slopes[2 * NUMBERS + p];
          for (let p = 0; p < NUMBERS; p += 1) numbers[p] += slope(p) / CELLS;
          if (veil && correction.air) {
            let byShare = 0;
            for (let c = 0; c < 3; c += 1) {
              air[c] += (slope(VEIL + c) * share) / CELLS;
              byShare += slope(VEIL + c) * correction.air[c] + slope(GAIN + c) / (1 - share);
            }
            const { values, count: n } = veil.cells[index];
            veil.trainer.forward(values.subarray(cell * n, (cell + 1) * n), 0);
            veil.trainer.backward([clampSlope(byShare * MOST_VEILED * raws[j] * (1 - raws[j])) / CELLS]);
          }
        });
        const byOutputs = new Float32Array(OUTPUTS);
        for (const { of, output, slope } of dependences) {
          const g = of.startsWith('air') ? (veil?.fixed ? 0 : air[Number(of[3])]) : numbers[PLACES[of]];
          byOutputs[output] += g * slope;
        }
        trainer.backward(byOutputs.map(clampSlope));
      }
      trainer.step(rate, 0.01, BATCH);
      veil?.trainer.step(rate, 0.001, BATCH);
    }
    if (epoch % 10 === 9) console.log(`  ${fault} ${seed}, ${epoch + 1} rounds: ${((100 * total) / count).toFixed(2)}`);
  }
}

/** Features of a sample's cells, for a veil of this colour. */
export const cellsOf = ({ grid }: Sample, air: Readonly<Vec3>): CellFeatures => veilFeatures(linearOf(grid), air);
