import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { run, storePerceptron, type Perceptron } from '@inkavo/core/learned/perceptron';
import { correctionOf, type Fault } from '@inkavo/core/reading/correction';
import { CLASSES } from '@inkavo/core/reading/estimate';
import { GRID_CELLS } from '@inkavo/core/reading/grid';
import {
  cellsOf,
  classifier,
  correctionTrainer,
  EPOCHS,
  learnCorrection,
  prepared,
  type Lessons,
  type Prepared,
} from './correctors';
import { repositoryRoot } from '@inkavo/media/root';
import { ownProcess } from '../ownProcess';
import { samples } from './dataset';
import { learnHidden } from './hidden';
import { spreadOf, Trainer } from './trainer';

/**
 * Trains the estimators of a first pass on known cases. Each is trained on the outcome itself, the difference of the
 * corrected picture to the truth. Writes `core/learned/*.json`. Takes about half an hour.
 */
const COUNT = Number(process.argv[2] ?? 6400);
/** Number of flat recordings for hidden faults: each as many as of the usual kinds. */
const FLATS = Math.round(COUNT * 0.625);
/** Number of networks in an ensemble, whose disagreement measures uncertainty. */
const ENSEMBLE = 3;
const HERE = join(repositoryRoot(), 'core/learned');

/** Training data of each estimator: besides its own fault some kinds that must not be harmed. */
const LESSONS: Record<Fault, Lessons> = {
  water: { water: 1, good: 0.12, white: 0.12 },
  haze: { haze: 1, good: 0.15, flat: 0.1 },
  flat: { flat: 1, mixed: 1, good: 0.15 },
  white: { white: 1, good: 0.6 },
};

const save = (name: string, data: object): void => writeFileSync(join(HERE, name), `${JSON.stringify(data)}\n`);
/** The class of a sample: flat recordings of haze count as flat. */
const classOf = ({ kind }: Prepared): number => CLASSES.indexOf(kind === 'mixed' || kind === 'tinted' ? 'flat' : kind);

/** Haze: the air's colour and the gains, together with the map of the veil. */
function learnHaze(all: Prepared[]): Perceptron[] {
  const some = all.filter((s) => LESSONS.haze[s.kind]);
  const trainers = Array.from({ length: ENSEMBLE }, (_, i) => correctionTrainer(some, 31 + i));
  // First with the measured air, to learn its colour; then the map with the estimated air.
  let cells = some.map((s) => cellsOf(s, s.anchors.air));
  const spread = spreadOf(
    cells.map((f, i) => f.values.subarray((i % GRID_CELLS) * f.count, ((i % GRID_CELLS) + 1) * f.count)),
  );
  const map = new Trainer([cells[0].count, 16, 1], spread.means, spread.deviations, 41, 0);
  const learn = (trainer: Trainer, seed: number, epochs: number, fixed: boolean): void =>
    learnCorrection(trainer, 'haze', LESSONS.haze, some, seed, epochs, { trainer: map, cells, fixed });
  learn(trainers[0], 31, 20, false);
  const airs = some.map((s) => correctionOf('haze', run(trainers[0].perceptron, s.features), s.anchors).air!);
  cells = some.map((s, i) => cellsOf(s, airs[i]));
  learn(trainers[0], 32, 25, true);
  for (const trainer of trainers.slice(1)) learn(trainer, 33, 30, false);
  save('veil.json', storePerceptron(map.perceptron));
  return trainers.map((t) => t.perceptron);
}

/**
 * Trained on unvaried photographs: `flat` was better that way on the part kept aside (0.59 against 0.61 of untouched),
 * and `water` is sufficient. Classes, white and haze are trained on varied photographs, with which 89 % of the good
 * pictures kept aside are recognised, 85 before.
 */
const AS_TAKEN: readonly string[] = ['water', 'flat'];

async function lessons(varied: boolean): Promise<Prepared[]> {
  const all = await samples('develop', COUNT, varied);
  console.log(`${all.length} cases${varied ? ', varied' : ''}`);
  return all.map(prepared);
}

async function learn(): Promise<void> {
  const wanted = ['water', 'flat', 'classes', 'white', 'haze'].filter((n) => !process.argv[3] || n === process.argv[3]);
  const seeds = Array.from({ length: ENSEMBLE }, (_, i) => 11 + i);
  if (process.argv[3] === 'hidden') save('hidden.json', (await learnHidden(FLATS, seeds)).map(storePerceptron));
  for (const varied of [false, true]) {
    const names = wanted.filter((n) => AS_TAKEN.includes(n) !== varied);
    if (names.length === 0) continue;
    const all = await lessons(varied);
    const learned = (name: string): Perceptron[] => {
      if (name === 'classes') return seeds.map((seed) => classifier(all, CLASSES.length, classOf, seed));
      if (name === 'haze') return learnHaze(all);
      const fault = name as Fault;
      const some = all.filter((s) => LESSONS[fault][s.kind]);
      return seeds.map((seed) => {
        const trainer = correctionTrainer(some, seed);
        learnCorrection(trainer, fault, LESSONS[fault], some, seed, EPOCHS);
        return trainer.perceptron;
      });
    };
    for (const name of names) save(`${name}.json`, learned(name).map(storePerceptron));
  }
  // In a separate process, which loads the estimators just trained.
  if (!process.argv[3]) console.log(await ownProcess(__filename, [String(COUNT), 'hidden']));
}

void learn();
