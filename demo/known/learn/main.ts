import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { decode709 } from '@inkavo/core/colour/transferTables';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { MOST_VEILED, veilFeatures, type CellFeatures } from '@inkavo/core/fields/veilMap';
import { run, storePerceptron, type Perceptron } from '@inkavo/core/learned/perceptron';
import {
  anchorsOf,
  correctionOf,
  OUTPUTS,
  type Anchors,
  type Dependence,
  type Fault,
} from '@inkavo/core/reading/correction';
import { CLASSES } from '@inkavo/core/reading/estimate';
import { features } from '@inkavo/core/reading/features';
import { GRID_CELLS, GRID_HEIGHT, GRID_WIDTH } from '@inkavo/core/reading/grid';
import type { CaseKind } from '../cases';
import { random } from '../random';
import { samples, type Sample } from './dataset';
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

/**
 * Learns what a clip is and how it is corrected from known cases: pictures with a fault whose truth is known. Each
 * estimator is trained on the outcome itself, the difference of the corrected picture to the truth. Writes
 * `core/learned/*.json`. Takes about half an hour.
 */
const COUNT = Number(process.argv[2] ?? 6400);
/** Networks that are averaged: how far they agree says how sure an estimate is. */
const ENSEMBLE = 3;
const HIDDEN = 24;
const EPOCHS = 30;
const BATCH = 16;
const CELLS = 64;
const RATE = 0.003;
/** Inputs are shaken a little, in deviations, so that no single picture is learned by heart. */
const NOISE = 0.08;
const HERE = join(__dirname, '../../../core/learned');

interface Prepared extends Sample {
  features: Float32Array;
  anchors: Anchors;
}

/** What each estimator learns from, and how many of a kind: besides its own fault some that must not be harmed. */
const LESSONS: Record<Fault, Partial<Record<CaseKind, number>>> = {
  water: { water: 1, good: 0.12, white: 0.12 },
  haze: { haze: 1, good: 0.15, flat: 0.1 },
  flat: { flat: 1, mixed: 1, good: 0.15 },
  white: { white: 1, good: 0.6 },
};

const save = (name: string, data: object): void => writeFileSync(join(HERE, name), `${JSON.stringify(data)}\n`);
const clampSlope = (v: number): number => Math.min(1, Math.max(-1, v));

function classifier(all: Prepared[], seed: number): Perceptron {
  const { means, deviations } = spreadOf(all.map((s) => s.features));
  const trainer = new Trainer([means.length, HIDDEN, CLASSES.length], means, deviations, seed, 0.3);
  const rng = random(seed + 99);
  for (let epoch = 0; epoch < EPOCHS; epoch += 1)
    for (let b = 0; b < all.length / BATCH; b += 1) {
      for (let k = 0; k < BATCH; k += 1) {
        const { kind, features: inputs } = rng.of(all);
        const out = trainer.forward(inputs, NOISE / 2);
        const most = Math.max(...out);
        const p = out.map((v) => Math.exp(v - most));
        const sum = p.reduce((a, v) => a + v);
        // Targets a little below certainty.
        const own = CLASSES.indexOf(kind === 'mixed' ? 'flat' : kind);
        trainer.backward(p.map((v, i) => v / sum - (i === own ? 0.95 : 0.05 / (CLASSES.length - 1))));
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

/** Learns a correction; for haze its veil's map too, given the features of cells. */
function corrector(
  fault: Fault,
  all: Prepared[],
  seed: number,
  veil?: { trainer: Trainer; cells: CellFeatures[]; fixed: boolean },
): Perceptron {
  const { means, deviations } = spreadOf(all.map((s) => s.features));
  const trainer = new Trainer([means.length, HIDDEN, OUTPUTS], means, deviations, seed, 0.2);
  learnCorrection(trainer, fault, all, seed, EPOCHS, veil);
  return trainer.perceptron;
}

function learnCorrection(
  trainer: Trainer,
  fault: Fault,
  all: Prepared[],
  seed: number,
  epochs: number,
  veil?: { trainer: Trainer; cells: CellFeatures[]; fixed: boolean },
): void {
  const rng = random(seed + 7);
  const shares = LESSONS[fault];
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
        // First the colours, since chroma counts for the picture as a whole; then what they depend on.
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

const cellsOf = ({ grid }: Sample, air: Readonly<Vec3>): CellFeatures =>
  veilFeatures({ width: GRID_WIDTH, height: GRID_HEIGHT, rgb: grid.map(decode709) }, air);

/** Haze: the air's colour and the gains, together with the map of the veil. */
function learnHaze(all: Prepared[]): Perceptron[] {
  const some = all.filter((s) => LESSONS.haze[s.kind]);
  const { means, deviations } = spreadOf(some.map((s) => s.features));
  const trainers = Array.from(
    { length: ENSEMBLE },
    (_, i) => new Trainer([means.length, HIDDEN, OUTPUTS], means, deviations, 31 + i, 0.2),
  );
  // First with the air as it is measured, to learn its colour; then the map with the air as it is estimated.
  let cells = some.map((s) => cellsOf(s, s.anchors.air));
  const spread = spreadOf(
    cells.map((f, i) => f.values.subarray((i % GRID_CELLS) * f.count, ((i % GRID_CELLS) + 1) * f.count)),
  );
  const map = new Trainer([cells[0].count, 16, 1], spread.means, spread.deviations, 41, 0);
  learnCorrection(trainers[0], 'haze', some, 31, 20, { trainer: map, cells, fixed: false });
  const airs = some.map((s) => correctionOf('haze', run(trainers[0].perceptron, s.features), s.anchors).air!);
  cells = some.map((s, i) => cellsOf(s, airs[i]));
  learnCorrection(trainers[0], 'haze', some, 32, 25, { trainer: map, cells, fixed: true });
  for (const trainer of trainers.slice(1))
    learnCorrection(trainer, 'haze', some, 33, 30, { trainer: map, cells, fixed: false });
  save('veil.json', storePerceptron(map.perceptron));
  return trainers.map((t) => t.perceptron);
}

/**
 * Learned from photographs as they were taken: so `flat` came out better on the part kept aside (0.59 against 0.61 of
 * untouched), and `water` is well as it is. Classes, white and haze learn from photographs cut and finished anew, by which
 * 89 % of the good pictures kept aside are known for what they are, before 85.
 */
const AS_TAKEN: readonly string[] = ['water', 'flat'];

async function prepared(varied: boolean): Promise<Prepared[]> {
  const all = await samples('develop', COUNT, varied);
  console.log(`${all.length} cases${varied ? ', varied' : ''}`);
  return all.map((s) => ({ ...s, features: features(s.grid), anchors: anchorsOf(s.grid) }));
}

async function learn(): Promise<void> {
  const wanted = ['water', 'flat', 'classes', 'white', 'haze'].filter((n) => !process.argv[3] || n === process.argv[3]);
  const seeds = Array.from({ length: ENSEMBLE }, (_, i) => 11 + i);
  for (const varied of [false, true]) {
    const names = wanted.filter((n) => AS_TAKEN.includes(n) !== varied);
    if (names.length === 0) continue;
    const all = await prepared(varied);
    const learned = (name: string): Perceptron[] => {
      if (name === 'classes') return seeds.map((seed) => classifier(all, seed));
      if (name === 'haze') return learnHaze(all);
      const fault = name as Fault;
      const some = all.filter((s) => LESSONS[fault][s.kind]);
      return seeds.map((seed) => corrector(fault, some, seed));
    };
    for (const name of names) save(`${name}.json`, learned(name).map(storePerceptron));
  }
}

void learn();
