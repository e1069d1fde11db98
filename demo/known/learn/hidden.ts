import type { Vec3 } from '@inkavo/core/colour/matrix';
import type { Perceptron } from '@inkavo/core/learned/perceptron';
import { compile } from '@inkavo/core/program/compile';
import { through } from '@inkavo/core/program/evaluate';
import { estimate, evidenceOf, HIDDEN } from '@inkavo/core/reading/estimate';
import type { Grid } from '@inkavo/core/reading/grid';
import { asSteps, ADDED_SATURATION, stepsOf } from '@inkavo/core/reading/stepsOf';
import type { CaseKind } from '../cases';
import { classifier, prepared } from './correctors';
import { flats, type Sample } from './dataset';

/** The hidden fault of each kind of flat recording. */
const TURNS_OUT: Partial<Record<CaseKind, (typeof HIDDEN)[number]>> = { mixed: 'haze', tinted: 'white', flat: 'good' };

/** A sample converted as in a first pass. */
function converted(sample: Sample): Sample {
  const { correction } = estimate('flat', evidenceOf([sample.grid]));
  const context = { hazeShare: 0, done: 1, frames: [], others: 0, dive: null, seconds: 0 };
  const steps = asSteps(stepsOf('flat', correction, ADDED_SATURATION.flat, context));
  const run = through(compile(steps, 0).ops);
  const grid: Grid = new Float32Array(sample.grid.length);
  for (let i = 0; i < grid.length; i += 3) {
    const rgb: Vec3 = [sample.grid[i], sample.grid[i + 1], sample.grid[i + 2]];
    run(rgb);
    grid.set(rgb, i);
  }
  return { ...sample, grid };
}

/**
 * Trains the classifier of hidden faults, on recordings converted with the estimated curve, including its errors: the
 * same faults look different in standard video. Photographs are cropped and varied, so that they differ from those the
 * curve's estimator was trained on. Retrain when that estimator changes.
 */
export async function learnHidden(count: number, seeds: readonly number[]): Promise<Perceptron[]> {
  const all = (await flats('develop', count, true)).map((s) => prepared(converted(s)));
  console.log(`${all.length} flat recordings`);
  return seeds.map((seed) => classifier(all, HIDDEN.length, ({ kind }) => HIDDEN.indexOf(TURNS_OUT[kind]!), seed));
}
