import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { ciede2000 } from '@inkavo/core/colour/difference';
import { encodedToLab, linearToLab } from '@inkavo/core/colour/lab';
import { bt709 } from '@inkavo/core/colour/transfer';
import { newStep } from '@inkavo/core/model/grade';
import { depthKeys } from '@inkavo/core/model/diveLog';
import { compile, through } from '@inkavo/core/program/compile';
import { fitNeutral } from '@inkavo/core/steps/water/pick';
import { water, type WaterParams } from '@inkavo/core/steps/water';
import type { Measured } from './measure';
import { WATERS } from './scenes';
import { score, type Score } from './score';
import { inWater, look } from './spectra';

// In a process of its own: a test's sandbox makes such computations many times slower.
const results = JSON.parse(
  execFileSync(process.execPath, ['--require', 'tsx/cjs', join(__dirname, 'measure.ts')], {
    maxBuffer: 1 << 26,
  }).toString(),
) as Measured[];
const mean = (values: number[]): number => values.reduce((a, b) => a + b, 0) / values.length;
const differences = (pick: (m: Measured) => Score): number[] => results.map((m) => pick(m).difference);

test('by itself the first pass is never worse than untouched, and better than the best plain method on average', () => {
  const plain = Object.keys(results[0].plain).map((n) => [n, mean(differences((m) => m.plain[n]))] as const);
  const own = mean(differences((m) => m.firstPass));
  console.log(
    [
      'mean CIEDE2000 to the truth',
      ...results.map(
        (m) =>
          `${m.name.padEnd(26)} untouched ${m.untouched.difference.toFixed(1)}, first pass ${m.firstPass.difference.toFixed(1)}, with a pick ${m.withPick.difference.toFixed(1)}`,
      ),
      `all: untouched ${mean(differences((m) => m.untouched)).toFixed(2)}, ${plain.map(([n, v]) => `${n} ${v.toFixed(2)}`).join(', ')}, first pass ${own.toFixed(2)}`,
    ].join('\n'),
  );
  for (const m of results) expect(m.firstPass.difference).toBeLessThanOrEqual(m.untouched.difference + 0.01);
  expect(own).toBeLessThan(Math.min(...plain.map(([, v]) => v)));
});

test('with one pick on a neutral slate the error is at most half of the untouched one, on average', () => {
  const [picked, untouched] = [mean(differences((m) => m.withPick)), mean(differences((m) => m.untouched))];
  console.log(`with a pick: ${picked.toFixed(2)} of ${untouched.toFixed(2)}: ${(picked / untouched).toFixed(2)}`);
  expect(picked).toBeLessThanOrEqual(untouched / 2);
});

test('the pictures have not gone grey: their chroma is the truth’s, within 0.8 and 1.25', () => {
  // Grey rock has no chroma to compare with: the mean over all cases counts.
  const ratio = (pick: (m: Measured) => Score): number =>
    mean(results.map((m) => pick(m).chroma * pick(m).trueChroma)) / mean(results.map((m) => pick(m).trueChroma));
  const [alone, picked] = [ratio((m) => m.firstPass), ratio((m) => m.withPick)];
  console.log(`mean chroma over the truth's: first pass ${alone.toFixed(2)}, with a pick ${picked.toFixed(2)}`);
  for (const r of [alone, picked]) {
    expect(r).toBeGreaterThan(0.8);
    expect(r).toBeLessThan(1.25);
  }
});

test('a good clip is left alone, and every kind is known for what it is', () => {
  for (const { kind, steps, change } of results) {
    if (kind === 'good') expect({ steps, change }).toEqual({ steps: [], change: 0 });
    if (kind === 'water' || kind === 'haze') expect(steps[0]).toBe(kind);
    if (kind === 'white') expect(steps).toContain('balance');
    if (kind === 'flat') expect(steps).toContain('range');
  }
});

test('red noise under water is at most twice what it was in green on average, and next to nothing is clipped', () => {
  const under = results.filter((m) => m.kind === 'water');
  console.log(
    under
      .map(
        (m) =>
          `${m.name}: red noise ${m.redNoise.toFixed(2)} of green's before, clipped ${(100 * m.clipped).toFixed(2)} %`,
      )
      .join('\n'),
  );
  // Where most of the contrast was gone, what brings it back raises the noise of all channels alike.
  expect(mean(under.map((m) => m.redNoise))).toBeLessThanOrEqual(2);
  for (const m of under) {
    expect(m.redNoise).toBeLessThanOrEqual(3);
    expect(m.clipped).toBeLessThan(0.005);
  }
});

// Sources: UCIQE, Yang and Sowmya (2015); UIQM, Panetta et al. (2016).
test('published measures of underwater pictures rise', () => {
  const under = results.filter((m) => m.kind === 'water');
  const both = (pick: (m: Measured) => [number, number]): [number, number] => [
    mean(under.map((m) => pick(m)[0])),
    mean(under.map((m) => pick(m)[1])),
  ];
  const [c, q] = [both((m) => m.uciqe), both((m) => m.uiqm)];
  console.log(`UCIQE ${c.map((v) => v.toFixed(3)).join(' → ')}, UIQM ${q.map((v) => v.toFixed(3)).join(' → ')}`);
  expect(c[1]).toBeGreaterThan(c[0]);
  expect(q[1]).toBeGreaterThan(q[0]);
});

test('with a dive log, a descent from 3 m to 18 m keeps a neutral slate within 3 (a*, b*) all the way', () => {
  const seconds = 30;
  const depth = (t: number): number => 3 + (15 * t) / seconds;
  const log = {
    name: 'descent',
    startedAt: null,
    samples: Array.from({ length: 40 }, (_, i) => ({ seconds: i * 2, metres: depth(i * 2 - 20) })).filter(
      (s) => s.metres >= 0,
    ),
  };
  const keys = depthKeys({ log, offset: 20 }, seconds);
  expect(keys[0].value).toBeCloseTo(3, 1);
  // Picked once, half way.
  const slate = (t: number): Vec3 => {
    const seen = look(inWater(WATERS.green, depth(t), 0.6), [0.5, 0.5, 0.5]);
    // The camera's own exposure: green of the slate at a third.
    return seen.map((v) => (v * 0.33) / seen[1]) as Vec3;
  };
  const params = (depthNow: number): WaterParams =>
    water.schema.parse({
      type: 'C1',
      depth: depthNow,
      distance: 0.6,
      distanceFrom: 'value',
      limitRed: 5,
      limitBlue: 5,
    });
  const fit = fitNeutral(params(depth(15)), slate(15), 0)!;
  const step = newStep('water', 'w', { ...params(8), ...fit, depth: { keys } });
  let worst = 0;
  for (let t = 0; t <= seconds; t += 1) {
    const rgb = slate(t).map((v) => bt709.encode(v)) as Vec3;
    through(compile([step], t).passes)(rgb);
    const [, a, b] = encodedToLab(rgb);
    worst = Math.max(worst, Math.abs(a), Math.abs(b));
  }
  console.log(`slate over the descent: at most ${worst.toFixed(2)} in a* or b*`);
  expect(worst).toBeLessThan(3);
});

test('the score itself: a picture against itself is 0, and colours differ as CIEDE2000 says', () => {
  const truth = Float32Array.from([0.2, 0.3, 0.1, 0.5, 0.5, 0.5]);
  const mask = Uint8Array.from([1, 1]);
  const same = truth.map((v) => bt709.encode(v)) as Float32Array;
  expect(score(same, truth, mask, 1).difference).toBeLessThan(1e-4);
  const off = same.slice();
  off[0] += 0.1;
  const expected = ciede2000(encodedToLab([off[0], off[1], off[2]]), linearToLab([0.2, 0.3, 0.1])) / 2;
  expect(score(off, truth, mask, 1).difference).toBeCloseTo(expected, 4);
});
