import type { Vec3 } from '@inkavo/core/colour/matrix';
import { fractal, hash, mix, smoothstep } from '../noise';
import { PHOTOGRAPH_HEIGHT, photographPixels, PHOTOGRAPHS, PHOTOGRAPH_WIDTH, type Part } from './photographs';
import type { Random } from './random';

export const KNOWN_WIDTH = 384;
export const KNOWN_HEIGHT = 216;
const W = KNOWN_WIDTH;
const H = KNOWN_HEIGHT;

/** Scene reflectances in linear light, KNOWN_WIDTH × KNOWN_HEIGHT × 3, panned by a share 0–1. */
export interface Surfaces {
  name: string;
  at(pan: number): Float32Array;
}

const decode = Float32Array.from({ length: 256 }, (_, i) => {
  const v = i / 255;
  // IEC 61966-2-1.
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
});

/** Variation of a photograph: a crop, and another finish. */
interface Variation {
  /** Width and height of the crop, as a share, and its position, 0–1. */
  zoom: number;
  left: number;
  top: number;
  /** Gain of each channel, contrast as an exponent around mid grey, saturation, light added everywhere. */
  gain: Vec3;
  contrast: number;
  saturation: number;
  flare: number;
}

const AS_TAKEN: Variation = {
  zoom: 1,
  left: 0,
  top: 0,
  gain: [1, 1, 1],
  contrast: 1,
  saturation: 1,
  flare: 0,
};

/** Share of the training photographs without variation. */
const PLAIN_SHARE = 0.25;

/** Draws a variation, small enough that a picture could still pass for a good one. */
function drawVariation(rng: Random): Variation {
  if (rng.chance(PLAIN_SHARE)) return AS_TAKEN;
  const level = 2 ** rng.normal(0.3);
  const tint = (): number => level * Math.exp(rng.normal(0.04));
  return {
    zoom: rng.between(0.55, 1),
    left: rng.between(0, 1),
    top: rng.between(0, 1),
    gain: [tint(), level, tint()],
    contrast: Math.exp(rng.normal(0.12)),
    saturation: Math.exp(rng.normal(0.2)),
    flare: rng.chance(0.3) ? rng.between(0, 0.006) : 0,
  };
}

const GREY = 0.18;

/** Applies a variation's crop to a photograph. */
function varied(
  picture: Float32Array,
  { zoom, left, top, gain, contrast, saturation, flare }: Variation,
): Float32Array {
  const out = new Float32Array(picture.length);
  const [x0, y0] = [left * (1 - zoom) * W, top * (1 - zoom) * H];
  const scale = GREY ** (1 - contrast);
  for (let y = 0; y < H; y += 1)
    for (let x = 0; x < W; x += 1) {
      const from = 3 * (Math.floor(y0 + zoom * y) * W + Math.floor(x0 + zoom * x));
      const [r, g, b] = [0, 1, 2].map((c) => scale * (gain[c] * picture[from + c]) ** contrast);
      const luma = 0.2126 * r + 0.7152 * g + 0.0722 * b;
      [r, g, b].forEach((v, c) => {
        out[3 * (y * W + x) + c] = Math.min(1, Math.max(0, luma + saturation * (v - luma)) + flare);
      });
    }
  return out;
}

/** A photograph as surfaces, optionally mirrored. */
export function photograph(id: string, mirrored: boolean, variation = AS_TAKEN): Surfaces {
  return {
    name: id,
    at(pan) {
      const pixels = photographPixels(id);
      const out = new Float32Array(W * H * 3);
      const left = Math.round(pan * (PHOTOGRAPH_WIDTH - W));
      const top = Math.round(pan * (PHOTOGRAPH_HEIGHT - H));
      for (let y = 0; y < H; y += 1)
        for (let x = 0; x < W; x += 1) {
          const from = 3 * ((y + top) * PHOTOGRAPH_WIDTH + left + (mirrored ? W - 1 - x : x));
          for (let c = 0; c < 3; c += 1) out[3 * (y * W + x) + c] = decode[pixels[from + c]];
        }
      return variation === AS_TAKEN ? out : varied(out, variation);
    },
  };
}

const GROUNDS = ['rock', 'plants', 'mixed', 'sand'] as const;
type Ground = (typeof GROUNDS)[number];

/** Reflectance of synthetic ground (long, middle, short wavelengths) at a position, in metres. */
function ground(kind: Ground, x: number, z: number, seed: number): Vec3 {
  const grain = 0.55 + 0.9 * fractal(x * 9, z * 9, 5, seed + 11) * fractal(x * 2, z * 2, 3, seed + 12);
  const stone = (kind === 'sand' ? 0.4 : 0.12) + 0.4 * fractal(x * 1.3, z * 1.3, 4, seed + 21);
  const warm = kind === 'sand' ? 1.12 : 1.04;
  const rock: Vec3 = [stone * warm * grain, stone * grain, (stone * grain * 0.95) / warm];
  const leaf = 0.35 + 1.1 * fractal(x * 14, z * 7, 4, seed + 31);
  const kindOfPlant = fractal(x * 1.1, z * 1.1, 2, seed + 41);
  const plant: Vec3 = [
    mix(0.07, 0.16, kindOfPlant) * leaf,
    mix(0.16, 0.2, kindOfPlant) * leaf,
    mix(0.04, 0.055, kindOfPlant) * leaf,
  ];
  // Some sponges, shells and stones of other colours.
  const spot = hash(Math.floor(x * 2.2), Math.floor(z * 2.2), seed + 51);
  const near =
    Math.hypot(((((x * 2.2) % 1) + 1) % 1) - 0.5, ((((z * 2.2) % 1) + 1) % 1) - 0.5) <
    0.32 + 0.1 * fractal(x * 8, z * 8, 2, seed + 52);
  if (near && spot > (kind === 'mixed' ? 0.72 : 0.93)) {
    const colours: Vec3[] = [
      [0.42, 0.1, 0.07],
      [0.5, 0.33, 0.09],
      [0.38, 0.12, 0.26],
      [0.6, 0.56, 0.48],
      [0.1, 0.14, 0.3],
    ];
    return colours[Math.floor(spot * 997) % 5].map((v) => v * (0.75 + 0.25 * grain)) as Vec3;
  }
  const share =
    kind === 'rock' || kind === 'sand'
      ? 0
      : kind === 'plants'
        ? smoothstep(0.28, 0.34, fractal(x, z, 3, seed + 61))
        : smoothstep(0.48, 0.53, fractal(x * 0.8, z * 0.8, 3, seed + 62));
  return rock.map((r, c) => mix(r, plant[c], share)) as Vec3;
}

/** Synthetic ground that fills the frame, seen slightly from above. */
export function madeGround(kind: Ground, seed: number): Surfaces {
  return {
    name: `${kind}-${seed % 1000}`,
    at(pan) {
      const out = new Float32Array(W * H * 3);
      for (let y = 0; y < H; y += 1) {
        const z = 1.6 / (0.35 + y / H);
        for (let x = 0; x < W; x += 1)
          out.set(ground(kind, ((x - W / 2) / W) * z * 1.4 + 0.5 * pan, z * 1.5, seed % 4096), 3 * (y * W + x));
      }
      return out;
    },
  };
}

/** Limits of luma and chroma within which a photograph counts as good. */
const BLACK = 0.17;
const WHITE = 0.62;
const TINTED = 0.5;

/** Whether a photograph includes black and white and has no strong tint (shades of grey, Finlayson and Trezzi 2004). */
const good = new Map<string, boolean>();
function isGood(id: string): boolean {
  const known = good.get(id);
  if (known !== undefined) return known;
  const pixels = photographPixels(id);
  const luma: number[] = [];
  const sum: Vec3 = [0, 0, 0];
  for (let i = 0; i < pixels.length; i += 3 * 31) {
    luma.push((0.2126 * pixels[i] + 0.7152 * pixels[i + 1] + 0.0722 * pixels[i + 2]) / 255);
    for (let c = 0; c < 3; c += 1) sum[c] += decode[pixels[i + c]] ** 6;
  }
  luma.sort((a, b) => a - b);
  const [r, g, b] = sum.map((v) => Math.log(v) / 6);
  const ends = luma[Math.floor(0.01 * luma.length)] < BLACK && luma[Math.floor(0.99 * luma.length)] > WHITE;
  const found = ends && Math.abs(r - g) < TINTED && Math.abs(b - g) < TINTED;
  good.set(id, found);
  return found;
}

/**
 * Draws surfaces of a part: mostly photographs, sometimes synthetic ground. Under water any will do, otherwise good
 * ones. `vary`: cropped and varied, so that few photographs represent many.
 */
export function drawSurfaces(rng: Random, part: Part, madeShare: number, underWater: boolean, vary = false): Surfaces {
  if (rng.chance(madeShare)) return madeGround(rng.of(GROUNDS), rng.seed());
  const list = PHOTOGRAPHS.filter((p) => p.part === part && (underWater || (!p.dive && isGood(p.id))));
  // Sources are chosen with equal probability, though some contain few pictures.
  const source = rng.of(['places', 'lands', 'lands', 'nature or landscapes'] as const);
  const some = list.filter((p) => source.includes(p.package));
  const { id } = rng.of(some.length > 0 ? some : list);
  return photograph(id, rng.chance(0.5), vary ? drawVariation(rng) : AS_TAKEN);
}
