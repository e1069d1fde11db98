import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { decode709 } from '@inkavo/core/colour/transferTables';
import { firstShares, openWaterFeatures, openWaterSamples, withContext } from '@inkavo/core/fields/openWater';
import { subsample } from '@inkavo/core/fields/subsample';
import { downsample } from '@inkavo/core/fields/smallPicture';
import { run, storePerceptron, type StoredPerceptron } from '@inkavo/core/learned/perceptron';
import { repositoryRoot } from '@inkavo/media/root';
import { makeCase } from '../cases';
import { isProgram, ownProcess } from '../ownProcess';
import { fetchPhotographs, type Part } from '../photographs';
import { random } from '../random';
import { spreadOf, Trainer } from './trainer';

/**
 * Trains the detector of open water on known pictures under water: `npm run learn:open-water -- [pictures]`. Writes
 * `core/learned/openWater.json`, and prints its performance on photographs and kinds of water not used in training.
 * Takes about a quarter of an hour.
 */
const PICTURES = 2000;
/** Share of pictures without open water. */
const CLOSED = 0.45;
const HIDDEN = 24;
const EPOCHS = 8;
const BATCH = 32;
const RATE = 0.004;
/**
 * Weight of false positives: an object mistaken for water keeps its cast, which is worse than water corrected like
 * everything else.
 */
const FALSE_WEIGHT = 2;
/** Number of samples per picture used for training. */
const PER_PICTURE = 160;

interface Sample {
  features: Float32Array;
  open: number;
}

/** Two estimates: the second one also sees the first one's result for the whole frame. */
type Stage = 'first' | 'second';

/** Features of a picture's samples, and their shares of open water. */
function pictureOf(
  seed: number,
  part: Part,
  stage: Stage,
): { values: Float32Array; count: number; open: Float32Array } {
  const open = random(seed * 7).chance(1 - CLOSED);
  const made = makeCase({ seed, kind: 'water', part, pictures: 1, half: true, varied: part === 'develop', open });
  const { width, height, code } = downsample(made.frames[0]);
  const samples = openWaterSamples({ width, height, rgb: code.map(decode709) });
  const features = openWaterFeatures(samples);
  const { values, count } = stage === 'first' ? features : withContext(features, firstShares(features));
  const shares = Float32Array.from({ length: 3 * width * height }, (_, i) => made.open?.[Math.floor(i / 3)] ?? 0);
  const thinned = subsample(shares, width, height, samples.width, samples.height);
  return { values, count, open: thinned.filter((_, i) => i % 3 === 0) };
}

/** Some samples of some pictures as one list of numbers: features, then the share, for each. */
function someSamples(from: number, to: number, part: Part, stage: Stage): { count: number; numbers: number[] } {
  const numbers: number[] = [];
  let size = 0;
  for (let seed = from; seed < to; seed += 1) {
    const { values, count, open } = pictureOf(seed, part, stage);
    const rng = random(seed);
    for (let k = 0; k < PER_PICTURE; k += 1) {
      const i = Math.floor(rng.between(0, open.length));
      for (let j = 0; j < count; j += 1) numbers.push(Number(values[i * count + j].toPrecision(5)));
      numbers.push(Number(open[i].toPrecision(3)));
    }
    size = count;
  }
  return { count: size, numbers };
}

async function samplesOf(from: number, to: number, part: Part, stage: Stage): Promise<Sample[]> {
  const middle = Math.floor((from + to) / 2);
  const halves = await Promise.all(
    [
      [from, middle],
      [middle, to],
    ].map(
      async ([a, b]) =>
        JSON.parse(await ownProcess(__filename, [`${a}`, `${b}`, part, stage])) as { count: number; numbers: number[] },
    ),
  );
  return halves.flatMap(({ count, numbers }) =>
    Array.from({ length: numbers.length / (count + 1) }, (_, i) => ({
      features: Float32Array.from(numbers.slice(i * (count + 1), i * (count + 1) + count)),
      open: numbers[i * (count + 1) + count],
    })),
  );
}

const sigmoid = (v: number): number => 1 / (1 + Math.exp(-v));

function judge(words: string, all: readonly Sample[], trainer: Trainer): void {
  let [loss, missed, wrong, open] = [0, 0, 0, 0];
  for (const { features, open: truth } of all) {
    const p = sigmoid(run(trainer.perceptron, features)[0]);
    loss -= truth * Math.log(p + 1e-9) + (1 - truth) * Math.log(1 - p + 1e-9);
    if (truth > 0.9) open += 1;
    if (truth > 0.9 && p < 0.5) missed += 1;
    if (truth < 0.1 && p > 0.5) wrong += 1;
  }
  const share = (n: number, of: number): string => `${((100 * n) / of).toFixed(1)} %`;
  console.log(
    `${words}: loss ${(loss / all.length).toFixed(3)}; open water missed ${share(missed, open)}, things taken for it ${share(wrong, all.length - open)}`,
  );
}

const PATH = join(repositoryRoot(), 'core/learned/openWater.json');

async function learn(pictures: number, stage: Stage): Promise<StoredPerceptron> {
  const all = await samplesOf(0, pictures, 'develop', stage);
  const held = await samplesOf(500_000, 500_000 + Math.round(pictures / 8), 'validation', stage);
  const { means, deviations } = spreadOf(all.map((s) => s.features));
  const trainer = new Trainer([means.length, HIDDEN, 1], means, deviations, 71, 0.1);
  const rng = random(72);
  for (let epoch = 0; epoch < EPOCHS; epoch += 1) {
    for (let b = 0; b < all.length / BATCH; b += 1) {
      for (let k = 0; k < BATCH; k += 1) {
        const { features, open } = rng.of(all);
        const p = sigmoid(trainer.forward(features, 0.05)[0]);
        trainer.backward([p > open ? FALSE_WEIGHT * (p - open) : p - open]);
      }
      trainer.step(RATE * (1 - epoch / EPOCHS) + 1e-5, 0.001, BATCH);
    }
  }
  judge(`${stage}, learned from`, all, trainer);
  judge(`${stage}, held back`, held, trainer);
  return storePerceptron(trainer.perceptron);
}

async function main(pictures: number): Promise<void> {
  fetchPhotographs(['develop', 'validation']);
  const save = (list: StoredPerceptron[]): void => writeFileSync(PATH, `${JSON.stringify(list)}\n`);
  const first = await learn(pictures, 'first');
  save([first, first]);
  save([first, await learn(pictures, 'second')]);
}

if (isProgram('openWater')) {
  const [from, to, part, stage] = process.argv.slice(2);
  if (stage) console.log(JSON.stringify(someSamples(Number(from), Number(to), part as Part, stage as Stage)));
  else void main(Number(from ?? PICTURES));
}
