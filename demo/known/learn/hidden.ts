import type { Vec3 } from '@inkavo/core/colour/matrix';
import type { Perceptron } from '@inkavo/core/learned/perceptron';
import { compile } from '@inkavo/core/program/compile';
import { through } from '@inkavo/core/program/evaluate';
import { estimate, evidenceOf, HIDDEN } from '@inkavo/core/reading/estimate';
import type { Grid } from '@inkavo/core/reading/grid';
import { asSteps, GREYED, stepsOf } from '@inkavo/core/reading/stepsOf';
import type { CaseKind } from '../cases';
import { classifier, prepared } from './correctors';
import { flats, type Sample } from './dataset';

/** What each kind of flat recording turns out to hide once it is converted. */
const TURNS_OUT: Partial<Record<CaseKind, (typeof HIDDEN)[number]>> = { mixed: 'haze', tinted: 'white', flat: 'good' };

/** A sample as the first pass converts it. */
function converted(sample: Sample): Sample {
  const { correction } = estimate('flat', evidenceOf([sample.grid]));
  const context = { hazeShare: 0, done: 1, frames: [], others: 0, dive: null, seconds: 0 };
  const steps = asSteps(stepsOf('flat', correction, GREYED.flat, context));
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
 * Learns what a flat recording hid, from recordings that went through the estimate of their curve, errors and all: in
 * standard video the same faults look otherwise. The photographs are cut and finished anew, so that they are not those the
 * curve's estimator learned by. Learn again when that estimator changes.
 */
export async function learnHidden(count: number, seeds: readonly number[]): Promise<Perceptron[]> {
  const all = (await flats('develop', count, true)).map((s) => prepared(converted(s)));
  console.log(`${all.length} flat recordings`);
  return seeds.map((seed) => classifier(all, HIDDEN.length, ({ kind }) => HIDDEN.indexOf(TURNS_OUT[kind]!), seed));
}
