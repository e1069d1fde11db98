import { findCorners, type FoundCorners, type LightFrame } from '@inkavo/core/reading/findCorners';
import { falloff } from '@inkavo/core/steps/corners/falloff';
import {
  fetchPhotographs,
  PHOTOGRAPH_HEIGHT,
  PHOTOGRAPH_WIDTH,
  PHOTOGRAPHS,
  photographPixels,
  type Part,
} from './photographs';
import { isProgram } from './ownProcess';
import { random } from './random';

const [WIDTH, HEIGHT] = [288, 162];
const [STRETCHES, FRAMES] = [2, 12];
/** Standard deviation of the noise, in 8-bit code values. */
const NOISE = 1.5;
/** The curve assumed by the reader; the camera has another. */
const ASSUMED = 2.2;

/** A pan of a camera with vignetting over a photograph. */
export interface Pan {
  /** The photograph, and the light lost in the furthest corner. */
  photograph: string;
  amount: number;
  begins: number;
  stretches: LightFrame[][];
  /** Maximum residual of a correction over the frame, as a share of the light, with the assumed curve. */
  left(amount: number, begins: number): number;
}

/**
 * Makes a pan over a photograph of a part: with noise, 8 bits, varying exposure, and a different curve than assumed.
 */
export function makePan(part: Part, seed: number, even: boolean): Pan {
  fetchPhotographs([part]);
  const rng = random(seed);
  const { id } = rng.of(PHOTOGRAPHS.filter((p) => p.part === part && !p.dive));
  const pixels = photographPixels(id);
  const light = new Float32Array(PHOTOGRAPH_WIDTH * PHOTOGRAPH_HEIGHT).map((_, i) =>
    [0.2126, 0.7152, 0.0722].reduce((sum, share, c) => sum + share * (pixels[3 * i + c] / 255) ** ASSUMED, 0),
  );
  const [amount, begins] = even ? [0, 1] : [rng.between(0.15, 0.6), rng.between(-0.5, 1.5)];
  const gamma = rng.between(2, 2.5);
  const place = (): [number, number] => [
    rng.between(0, PHOTOGRAPH_WIDTH - WIDTH - 1),
    rng.between(0, PHOTOGRAPH_HEIGHT - HEIGHT - 1),
  ];
  const far = (WIDTH * WIDTH + HEIGHT * HEIGHT) / 4;
  const frame = (left: number, top: number, exposure: number): LightFrame => {
    const out = new Float32Array(WIDTH * HEIGHT);
    for (let y = 0; y < HEIGHT; y += 1)
      for (let x = 0; x < WIDTH; x += 1) {
        const [u, v] = [Math.floor(x + left), Math.floor(y + top)];
        const [fu, fv] = [x + left - u, y + top - v];
        const o = v * PHOTOGRAPH_WIDTH + u;
        const above = (1 - fu) * light[o] + fu * light[o + 1];
        const below = (1 - fu) * light[o + PHOTOGRAPH_WIDTH] + fu * light[o + PHOTOGRAPH_WIDTH + 1];
        const m = ((x - (WIDTH - 1) / 2) ** 2 + (y - (HEIGHT - 1) / 2) ** 2) / far;
        const seen = ((1 - fv) * above + fv * below) * (1 - amount * falloff(Math.min(1, m), begins)) * exposure;
        const code = Math.round(255 * seen ** (1 / gamma) + rng.normal(NOISE)) / 255;
        out[y * WIDTH + x] = Math.max(0, code) ** ASSUMED;
      }
    return { width: WIDTH, height: HEIGHT, light: out };
  };
  const stretches = Array.from({ length: STRETCHES }, () => {
    const [[x0, y0], [x1, y1]] = [place(), place()];
    return Array.from({ length: FRAMES }, (_, f) => {
      const t = f / (FRAMES - 1);
      return frame(x0 + (x1 - x0) * t, y0 + (y1 - y0) * t, 1 + 0.1 * Math.sin(f / 3));
    });
  });
  return {
    ...{ photograph: id, amount, begins, stretches },
    left(a, b) {
      const off = Array.from({ length: 21 }, (_, i) => i / 20).map((m) => {
        const there = (1 - amount * falloff(m, begins)) ** (ASSUMED / gamma);
        return Math.abs(there / (1 - a * falloff(m, b)) - 1);
      });
      return Math.max(...off);
    },
  };
}

/** Result of a pan: residual of the correction, null if nothing could be measured. */
export interface PanFound {
  photograph: string;
  amount: number;
  begins: number;
  found: FoundCorners;
  left: number | null;
}

const measured = (part: Part, seed: number, even: boolean): PanFound => {
  const { stretches, left, ...pan } = makePan(part, seed, even);
  const found = findCorners(stretches);
  return { ...pan, found, left: found.found ? left(found.amount, found.begins) : null };
};

/**
 * `node --require tsx/cjs demo/known/pans.ts PART SEED DARK EVEN`: this many pans with and without vignetting, as JSON.
 */
if (isProgram('pans')) {
  const [part, seed, dark, even] = process.argv.slice(2);
  const list = Array.from({ length: Number(dark) + Number(even) }, (_, k) =>
    measured(part as Part, Number(seed) + k, k >= Number(dark)),
  );
  console.log(JSON.stringify(list));
}
