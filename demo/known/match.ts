import { adaptWorking } from '@inkavo/core/colour/adaptation';
import { ciede2000 } from '@inkavo/core/colour/difference';
import { encodedToLab } from '@inkavo/core/colour/lab';
import { transform, type Vec3 } from '@inkavo/core/colour/matrix';
import { WHITES } from '@inkavo/core/colour/primaries';
import { kelvinToXy } from '@inkavo/core/colour/temperature';
import { srgb } from '@inkavo/core/colour/transfer';
import { matchTo, type Match } from '@inkavo/core/match/matchTo';
import type { Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { evaluate } from '@inkavo/core/program/evaluate';
import { drawCamera, render, type Camera } from './camera';
import {
  fetchPhotographs,
  PHOTOGRAPH_HEIGHT,
  PHOTOGRAPH_WIDTH,
  photographPixels,
  PHOTOGRAPHS,
  type Part,
} from './photographs';
import { isProgram } from './ownProcess';
import { random, type Random } from './random';

/**
 * Relation of two clips: the same view, the same place from two sides, different places; or equal except for the view,
 * including camera and light.
 */
export const PAIRS = ['same', 'place', 'other', 'alike'] as const;
export type PairKind = (typeof PAIRS)[number];

/** Two clips with known truth for the match; encoded R'G'B'. */
export interface KnownPair {
  kind: PairKind;
  source: Float32Array;
  reference: Float32Array;
  /** The first clip's view as recorded by the second one's camera. */
  truth: Float32Array;
}

const [WIDTH, HEIGHT] = [96, 54];

/** Linear light of a part of a photograph. */
function viewOf(pixels: ArrayLike<number>, share: number, rng: Random): Float32Array {
  const [w, h] = [PHOTOGRAPH_WIDTH * share, PHOTOGRAPH_HEIGHT * share];
  const [left, top] = [rng.between(0, PHOTOGRAPH_WIDTH - w), rng.between(0, PHOTOGRAPH_HEIGHT - h)];
  const out = new Float32Array(3 * WIDTH * HEIGHT);
  for (let y = 0, o = 0; y < HEIGHT; y += 1)
    for (let x = 0; x < WIDTH; x += 1) {
      const px = Math.floor(left + ((x + 0.5) / WIDTH) * w);
      const py = Math.floor(top + ((y + 0.5) / HEIGHT) * h);
      for (let c = 0; c < 3; c += 1, o += 1) out[o] = srgb.decode(pixels[3 * (py * PHOTOGRAPH_WIDTH + px) + c] / 255);
    }
  return out;
}

/** Typical remaining differences between two clips after a first correction: exposure, white, black and contrast. */
function drawDifference(rng: Random): (light: Vec3, camera: Camera) => Vec3 {
  const gain = 2 ** rng.normal(0.4);
  const white = rng.chance(0.3)
    ? undefined
    : adaptWorking(kelvinToXy({ kelvin: rng.scaled(4500, 9500), duv: 0.0032 + rng.normal(0.004) }), WHITES.D65);
  const [black, span] = rng.chance(0.4) ? [rng.between(0, 0.08), rng.between(0.7, 0.95)] : [0, 1];
  return (light, camera) => {
    const seen = (white ? transform(white, light) : light).map((v) => gain * v) as Vec3;
    return render(camera, camera.curve, seen).map((v) => black + span * Math.min(1.05, v)) as Vec3;
  };
}

/** A pair from a seed. */
export function makePair(kind: PairKind, part: Part, seed: number): KnownPair {
  const rng = random(seed);
  const photographs = PHOTOGRAPHS.filter((p) => p.part === part && !p.dive);
  const pixels = photographPixels(rng.of(photographs).id);
  const share = rng.between(0.55, kind === 'same' ? 1 : 0.75);
  const light = viewOf(pixels, share, rng);
  const beside =
    kind === 'same' ? light : viewOf(kind === 'other' ? photographPixels(rng.of(photographs).id) : pixels, share, rng);
  const there = drawCamera(rng);
  const here = kind === 'alike' ? there : drawCamera(rng);
  const plain = (v: Vec3, camera: Camera): Vec3 => render(camera, camera.curve, v);
  const difference = kind === 'alike' ? plain : drawDifference(rng);
  const record = (from: Float32Array, camera: Camera, see: typeof plain): Float32Array => {
    const out = new Float32Array(from.length);
    for (let o = 0; o < from.length; o += 3)
      out.set(
        see([from[o], from[o + 1], from[o + 2]], camera).map(
          (v) => Math.round(255 * Math.min(1.05, Math.max(-0.05, v))) / 255,
        ),
        o,
      );
    return out;
  };
  return {
    kind,
    source: record(light, here, difference),
    reference: record(beside, there, plain),
    truth: record(light, there, plain),
  };
}

/** Mean CIEDE2000 between a graded picture and another one. */
export function apart(from: Float32Array, steps: readonly Step[], to: Float32Array): number {
  const program = compile(steps, 0);
  let sum = 0;
  for (let o = 0; o < from.length; o += 3) {
    const shown = evaluate(program, [from[o], from[o + 1], from[o + 2]], true);
    sum += ciede2000(encodedToLab(shown), encodedToLab([to[o], to[o + 1], to[o + 2]]));
  }
  return (3 * sum) / from.length;
}

/** Matches a pair: difference from the truth before and with the steps. */
export function measurePair(pair: KnownPair): { match: Match; before: number; after: number } {
  const match = matchTo(pair.source, pair.reference, 'another');
  const [before, after] = [[], match.steps].map((steps) => apart(pair.source, steps, pair.truth));
  return { match, before, after };
}

/** Measurements of one pair. */
export type PairFound = { kind: PairKind; before: number; after: number; verdict: Match['verdict'] };

/** Summary of the pairs of a kind in words. */
export function pairsText(kind: PairKind, all: readonly PairFound[]): string {
  const list = all.filter((p) => p.kind === kind);
  const mean = (of: 'before' | 'after'): string => (list.reduce((s, p) => s + p[of], 0) / list.length).toFixed(2);
  const worse = list.filter((p) => p.after > p.before + 0.5).length;
  const most = Math.max(...list.map((p) => p.after - p.before)).toFixed(1);
  const verdicts = (['matched', 'unsure', 'alike', 'unlike'] as const).map(
    (v) => `${v} ${list.filter((p) => p.verdict === v).length}`,
  );
  return `${kind}: ${mean('before')} → ${mean('after')} CIEDE2000; worse by over 0.5: ${worse} of ${list.length}, ${most} at most; ${verdicts.join(', ')}`;
}

/**
 * Measures this many pairs of each kind, and prints them as JSON, or in words: `npm run known:match -- aside 1000 20
 * words`.
 */
function main([part = 'develop', seed = '1000', count = '10', form = 'json']: string[]): void {
  fetchPhotographs([part as Part]);
  const all = PAIRS.flatMap((kind) =>
    Array.from({ length: Number(count) }, (_, i): PairFound => {
      const { match, before, after } = measurePair(makePair(kind, part as Part, Number(seed) + i));
      return { kind, before, after, verdict: match.verdict };
    }),
  );
  console.log(form === 'json' ? JSON.stringify(all) : PAIRS.map((kind) => pairsText(kind, all)).join('\n'));
}

if (isProgram('match')) main(process.argv.slice(2));
