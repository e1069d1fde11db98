import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { storePerceptron, type Perceptron } from '@inkavo/core/learned/perceptron';
import { STANDARD, type Profile } from '@inkavo/core/model/profile';
import { GRID_HEIGHT, GRID_WIDTH, type Grid } from '@inkavo/core/reading/grid';
import { profileFeatures, sightOf } from '@inkavo/core/reading/recognise';
import { fetchPhotographs } from '../photographs';
import { random, type Random } from '../random';
import { ASKED, drawProfile, drawScene, recorder } from './profileCases';
import { spreadOf, Trainer } from './trainer';

/**
 * Trains the recognition of profiles: photographs are put through known and random curves, and the network learns which
 * candidate profile fits best. Writes `core/learned/profiles.json`. Takes some minutes.
 */
const COUNT = Number(process.argv[2] ?? 9000);
const EPOCHS = 30;
const BATCH = 16;
const ENSEMBLE = 1;
const HIDDEN = 48;
const RATE = 0.003;
const NOISE = 0.05;
/** Share of standard video, and number of random profiles beside the known ones. */
const PLAIN = 0.2;
const DRAWN = 3;

/** A clip's features under each candidate profile, and the index of the right one. */
interface Lesson {
  hypotheses: Float32Array[];
  right: number;
}

/** A scene as recorded with a profile, subsampled. */
function recorded(profile: Profile, depth: number, rng: Random): Grid {
  const { light } = drawScene(rng, 'develop', GRID_WIDTH, GRID_HEIGHT);
  const record = recorder(profile, rng);
  const noise = rng.scaled(0.002, 0.02);
  const steps = 2 ** depth - 1;
  const out = new Float32Array(light.length);
  const rgb: Vec3 = [0, 0, 0];
  for (let o = 0; o < light.length; o += 3) {
    for (let c = 0; c < 3; c += 1) {
      const v = light[o + c];
      rgb[c] = v + rng.normal(noise * Math.sqrt(Math.max(0, v)) + 0.1 * noise);
    }
    record(rgb);
    for (let c = 0; c < 3; c += 1) out[o + c] = Math.round(Math.min(1.07, Math.max(-0.06, rgb[c])) * steps) / steps;
  }
  return out;
}

function lesson(seed: number): Lesson {
  const rng = random(seed);
  // Candidates include three random profiles, any of which may be the right one: none is favoured.
  const asked = [...ASKED, ...Array.from({ length: DRAWN }, () => drawProfile(rng))];
  const profile = rng.chance(PLAIN) ? STANDARD : rng.of(asked.slice(1));
  const depth = rng.of([8, 10]);
  const sight = sightOf([recorded(profile, depth, rng)], depth);
  return { hypotheses: asked.map((p) => profileFeatures(sight, p)), right: asked.indexOf(profile) };
}

function learn(lessons: readonly Lesson[], seed: number): Perceptron {
  const rng = random(seed);
  const { means, deviations } = spreadOf(lessons.flatMap((l) => l.hypotheses));
  const trainer = new Trainer([means.length, HIDDEN, 1], means, deviations, seed, 0);
  for (let epoch = 0; epoch < EPOCHS; epoch += 1) {
    const rate = RATE * 0.5 * (1 + Math.cos((Math.PI * epoch) / EPOCHS));
    let [loss, hits] = [0, 0];
    for (let n = 0; n < lessons.length; n += 1) {
      const { hypotheses, right } = rng.of(lessons);
      const scores = hypotheses.map((h) => trainer.forward(h, 0)[0]);
      const most = Math.max(...scores);
      const weights = scores.map((s) => Math.exp(s - most));
      const sum = weights.reduce((a, b) => a + b);
      loss -= Math.log(weights[right] / sum);
      hits += scores[right] === most ? 1 : 0;
      hypotheses.forEach((h, k) => {
        trainer.forward(h, NOISE);
        trainer.backward([weights[k] / sum - (k === right ? 1 : 0)]);
      });
      if (n % BATCH === BATCH - 1) trainer.step(rate, 0.01, BATCH);
    }
    if (epoch % 4 === 3)
      console.log(
        `  ${seed}, ${epoch + 1} rounds: loss ${(loss / lessons.length).toFixed(3)}, right ${((100 * hits) / lessons.length).toFixed(1)} %`,
      );
  }
  return trainer.perceptron;
}

fetchPhotographs();
const lessons = Array.from({ length: COUNT }, (_, i) => lesson(1000 + i));
console.log(`${lessons.length} lessons`);
const found = Array.from({ length: ENSEMBLE }, (_, i) => storePerceptron(learn(lessons, 51 + i)));
writeFileSync(join(__dirname, '../../../core/learned/profiles.json'), `${JSON.stringify(found)}\n`);
