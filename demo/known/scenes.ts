import type { Vec3 } from '@inkavo/core/colour/matrix';
import { WHITES } from '@inkavo/core/colour/primaries';
import { adaptWorking } from '@inkavo/core/colour/adaptation';
import { kelvinToXy } from '@inkavo/core/colour/temperature';
import { invert, multiply, transform } from '@inkavo/core/colour/matrix';
import { bt709 } from '@inkavo/core/colour/transfer';
import { codeScale, luma709, rgbToYcbcr } from '@inkavo/core/colour/ycbcr';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import { fractal, hash, mix, noiseTile, smoothstep } from '../noise';
import { inAir, inWater, look, type Seen, type Water } from './spectra';

/** Small pictures of invented places of which everything is known, to measure corrections against the truth. */
export interface KnownCase {
  name: string;
  kind: 'water' | 'haze' | 'flat' | 'white' | 'good';
  /** Pictures over the clip, as the camera recorded them. */
  frames: PlanarPicture[];
  /** The same as the camera would have recorded them without water, haze or a wrong setting: linear R, G, B. */
  truths: Float32Array[];
  /** 1 where there is a thing whose colour is known; open water and sky count for nothing. */
  masks: Uint8Array[];
  /** A neutral slate in the first picture, as shares of it. */
  slate: Area;
}

export const KNOWN_WIDTH = 384;
export const KNOWN_HEIGHT = 216;
const FRAMES = 2;
const W = KNOWN_WIDTH;
const H = KNOWN_HEIGHT;
const FORMAT: PlanarFormat = {
  width: W,
  height: H,
  depth: 8,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
};
/** What automatic exposure aims for: mean encoded luma. */
const EXPOSED = 0.42;
/** The light meter looks at every so many pixels. */
const EVERY = 13;
/** Deviation of the camera's noise in code values. */
const NOISE = 1.1;

type Ground = 'rock' | 'plants' | 'mixed';
const GROUNDS: readonly Ground[] = ['rock', 'plants', 'mixed'];

/** Reflectance of the ground (long, middle, short wavelengths) at a place, in metres. */
function ground(kind: Ground, x: number, z: number): Vec3 {
  const grain = 0.55 + 0.9 * fractal(x * 9, z * 9, 5, 11) * fractal(x * 2, z * 2, 3, 12);
  const stone = 0.12 + 0.4 * fractal(x * 1.3, z * 1.3, 4, 21);
  const rock: Vec3 = [stone * 1.04 * grain, stone * grain, stone * 0.93 * grain];
  const leaf = 0.35 + 1.1 * fractal(x * 14, z * 7, 4, 31);
  const kindOfPlant = fractal(x * 1.1, z * 1.1, 2, 41);
  const plant: Vec3 = [
    mix(0.07, 0.16, kindOfPlant) * leaf,
    mix(0.16, 0.2, kindOfPlant) * leaf,
    mix(0.04, 0.055, kindOfPlant) * leaf,
  ];
  // Sponges, shells and stones of other colours, a few.
  const spot = hash(Math.floor(x * 2.2), Math.floor(z * 2.2), 51);
  const near = Math.hypot(((x * 2.2) % 1) - 0.5, ((z * 2.2) % 1) - 0.5) < 0.32 + 0.1 * fractal(x * 8, z * 8, 2, 52);
  if (near && spot > (kind === 'mixed' ? 0.72 : 0.93)) {
    const colours: Vec3[] = [
      [0.42, 0.1, 0.07],
      [0.5, 0.33, 0.09],
      [0.38, 0.12, 0.26],
      [0.6, 0.56, 0.48],
      [0.1, 0.14, 0.3],
    ];
    return colours[Math.floor(spot * 997) % 5].map((v) => v * (0.75 + 0.5 * grain * 0.5)) as Vec3;
  }
  const share =
    kind === 'rock'
      ? 0
      : kind === 'plants'
        ? smoothstep(0.28, 0.34, fractal(x, z, 3, 61))
        : smoothstep(0.48, 0.53, fractal(x * 0.8, z * 0.8, 3, 62));
  return rock.map((r, c) => mix(r, plant[c], share)) as Vec3;
}

/** A picture as surfaces and distances. `shift` moves the camera along, in metres. */
interface Layout {
  surface: Float32Array;
  /** Metres (or hundreds of them from the air); Infinity for open water and sky. */
  distance: Float32Array;
}

const SLATE: Area = { x: 0.34, y: 0.62, width: 0.16, height: 0.2 };

const layouts = new Map<string, Layout>();
/** A picture's surfaces: made once, seen through many waters. */
function layOut(...args: Parameters<typeof newLayout>): Layout {
  const key = JSON.stringify(args);
  if (!layouts.has(key)) layouts.set(key, newLayout(...args));
  return layouts.get(key)!;
}

function newLayout(kind: Ground, shift: number, horizon: number, eye: number, detail: number, slate: boolean): Layout {
  const surface = new Float32Array(W * H * 3);
  const distance = new Float32Array(W * H).fill(Infinity);
  for (let x = 0; x < W; x += 1) {
    // Hills break the horizon, so that its line has near and far parts.
    const hill = horizon * H - 16 * Math.max(0, fractal(x / 40 + shift * 0.2, 3, 3, 71) - 0.35) * (H / 108);
    for (let y = Math.floor(hill) + 1; y < H; y += 1) {
      const i = y * W + x;
      const z = (eye * H * 0.9) / (y - hill + 4);
      const px = ((x - W / 2) / W) * z * 1.4 + shift;
      distance[i] = z;
      surface.set(ground(kind, px * detail, z * detail), 3 * i);
    }
  }
  if (slate)
    for (let y = Math.round(SLATE.y * H) - 3; y < (SLATE.y + SLATE.height) * H + 3; y += 1)
      for (let x = Math.round(SLATE.x * W) - 3; x < (SLATE.x + SLATE.width) * W + 3; x += 1) {
        const inside =
          x >= SLATE.x * W && x < (SLATE.x + SLATE.width) * W && y >= SLATE.y * H && y < (SLATE.y + SLATE.height) * H;
        const i = y * W + x;
        surface.fill(inside ? 0.5 : 0.05, 3 * i, 3 * i + 3);
        distance[i] = Math.min(distance[i], 1.2 * eye);
      }
  return { surface, distance };
}

/** Scales light so that the mean encoded luma of a picture is what automatic exposure aims for. */
function expose(light: Float32Array, counted?: Uint8Array): number {
  let [low, high] = [-12, 12];
  for (let k = 0; k < 40; k += 1) {
    const gain = 2 ** ((low + high) / 2);
    let sum = 0;
    let count = 0;
    for (let i = 0; i < light.length; i += 3 * EVERY) {
      if (counted && !counted[i / 3]) continue;
      sum += luma709(...([0, 1, 2].map((c) => bt709.encode(Math.min(1.1, gain * light[i + c]))) as Vec3));
      count += 1;
    }
    if (sum / count > EXPOSED) high = (low + high) / 2;
    else low = (low + high) / 2;
  }
  return 2 ** ((low + high) / 2);
}

/** Records light: transfer function, noise, 8 bits, chroma at a quarter. */
function record(light: Float32Array, gain: number, seed: number, encode: (rgb: Vec3) => Vec3): PlanarPicture {
  const picture = planesOver(new ArrayBuffer(pictureBytes(FORMAT)), FORMAT);
  const s = codeScale(8, 'limited');
  const noise = noiseTile(W * H * 3, seed);
  const chroma = new Float32Array(W * H * 2);
  for (let i = 0; i < W * H; i += 1) {
    const rgb = encode([gain * light[3 * i], gain * light[3 * i + 1], gain * light[3 * i + 2]]);
    for (let c = 0; c < 3; c += 1) rgb[c] = Math.min(1.08, rgb[c] + (NOISE / 219) * noise[3 * i + c]);
    const [y, cb, cr] = rgbToYcbcr(rgb, 'bt709');
    picture.y[i] = Math.min(254, Math.max(1, Math.round(y * s.yScale + s.yOffset)));
    chroma[2 * i] = cb;
    chroma[2 * i + 1] = cr;
  }
  for (let y = 0; y < H / 2; y += 1)
    for (let x = 0; x < W / 2; x += 1)
      for (const [plane, k] of [
        [picture.cb, 0],
        [picture.cr, 1],
      ] as const) {
        // Left-sited: a quarter, a half, a quarter of a column and its neighbours, two rows.
        let sum = 0;
        for (const row of [2 * y, 2 * y + 1])
          for (const [dx, weight] of [
            [-1, 0.125],
            [0, 0.25],
            [1, 0.125],
          ])
            sum += weight * chroma[2 * (row * W + Math.min(W - 1, Math.max(0, 2 * x + dx))) + k];
        plane[y * (W / 2) + x] = Math.min(254, Math.max(1, Math.round(sum * s.cScale + s.cOffset)));
      }
  return picture;
}

const standard = (rgb: Vec3): Vec3 => rgb.map(bt709.encode) as Vec3;

interface Making {
  name: string;
  kind: KnownCase['kind'];
  layout: (shift: number) => Layout;
  /** Light from a surface at a distance, and of what has no surface at a height 0–1 of the picture. */
  seen: (surface: Vec3, distance: number) => Vec3;
  beyond: (height: number) => Vec3;
  /** The same in clear white light. */
  truth: (surface: Vec3) => Vec3;
  beyondTruth: (height: number) => Vec3;
  encode?: (rgb: Vec3) => Vec3;
}

function make({ name, kind, layout, seen, beyond, truth, beyondTruth, encode = standard }: Making): KnownCase {
  const made: KnownCase = { name, kind, frames: [], truths: [], masks: [], slate: SLATE };
  for (let k = 0; k < FRAMES; k += 1) {
    const { surface, distance } = layout(k * 0.35);
    const [light, clear] = [new Float32Array(W * H * 3), new Float32Array(W * H * 3)];
    const mask = new Uint8Array(W * H);
    for (let i = 0; i < W * H; i += 1) {
      const height = Math.floor(i / W) / H;
      const s: Vec3 = [surface[3 * i], surface[3 * i + 1], surface[3 * i + 2]];
      const open = distance[i] === Infinity;
      mask[i] = open ? 0 : 1;
      light.set(open ? beyond(height) : seen(s, distance[i]), 3 * i);
      clear.set(open ? beyondTruth(height) : truth(s), 3 * i);
    }
    // Open water counts for nothing; the sky does, it is there in clear air too.
    const gain = expose(clear, kind === 'water' ? mask : undefined);
    made.frames.push(record(light, expose(light), 101 + 7 * k, encode));
    made.truths.push(clear.map((v) => v * gain) as Float32Array);
    made.masks.push(mask);
  }
  return made;
}

/** Views at evenly spaced distances, interpolated. */
function views(far: number, at: (distance: number) => Seen): (surface: Vec3, distance: number) => Vec3 {
  const count = 120;
  const list = Array.from({ length: count + 1 }, (_, i) => at((i / count) ** 2 * far));
  return (surface, distance) => {
    const place = Math.min(count - 1e-6, Math.sqrt(distance / far) * count);
    const i = Math.floor(place);
    const [a, b] = [look(list[i], surface), look(list[i + 1], surface)];
    return a.map((v, c) => v + (place - i) * (b[c] - v)) as Vec3;
  };
}

export const WATERS: Record<'blue' | 'green', Water> = {
  blue: { types: ['IB', 'II'], second: 0.4 },
  green: { types: ['C1', 'C3'], second: 0.35 },
};
export const DEPTHS = [5, 12, 25] as const;

export function waterCase(water: keyof typeof WATERS, depth: number, kind: Ground): KnownCase {
  const far = 60;
  const open = inWater(WATERS[water], depth, far).veil;
  return make({
    name: `${water} water, ${depth} m, ${kind}`,
    kind: 'water',
    layout: (shift) => layOut(kind, shift, 0.3, 1, 1, true),
    seen: views(far, (r) => inWater(WATERS[water], depth, r)),
    beyond: (height) => open.map((v) => v * (1.25 - 0.8 * height)) as Vec3,
    truth: (s) => look(inAir, s),
    beyondTruth: () => [0.02, 0.1, 0.14],
  });
}

/** Loss of light through haze per hundred metres, by visual range (Koschmieder: 3.912 / range). */
const loss = (visualRange: number): number => 391.2 / visualRange;
const AIRLIGHT: Vec3 = [0.62, 0.68, 0.76];
const skyAt = (height: number): Vec3 =>
  AIRLIGHT.map((v, c) => v * mix(1, [0.55, 0.75, 1.02][c], smoothstep(0.34, 0, height))) as Vec3;

export function hazeCase(visualRange: number, kind: Ground): KnownCase {
  return make({
    name: `haze, ${visualRange / 1000} km, ${kind}`,
    kind: 'haze',
    // Distances in hundreds of metres: from a hundred metres up.
    layout: (shift) => layOut(kind, shift, 0.34, 1, 0.6, false),
    seen: (s, distance) => {
      const t = Math.exp(-loss(visualRange) * distance);
      return look(inAir, s).map((v, c) => v * t + AIRLIGHT[c] * (1 - t)) as Vec3;
    },
    beyond: skyAt,
    truth: (s) => look(inAir, s),
    beyondTruth: skyAt,
  });
}

const land = (kind: Ground, name: string, caseKind: KnownCase['kind'], encode?: (rgb: Vec3) => Vec3): KnownCase =>
  make({
    name,
    kind: caseKind,
    layout: (shift) => layOut(kind, shift, 0.2, 1, 1, true),
    seen: (s) => look(inAir, s),
    beyond: skyAt,
    truth: (s) => look(inAir, s),
    beyondTruth: skyAt,
    encode,
  });

/** Lifted blacks, lowered whites: a flat profile that carries no tag. */
const flat = (rgb: Vec3): Vec3 => rgb.map((v) => 0.17 + 0.5 * bt709.encode(v)) as Vec3;

/** Recorded at 4300 K where it should have been 5500 K. */
const cold = (() => {
  const white = (kelvin: number) => adaptWorking(kelvinToXy({ kelvin, duv: 0 }), WHITES.D65);
  const matrix = multiply(white(4300), invert(white(5500)));
  return (rgb: Vec3): Vec3 => standard(transform(matrix, rgb));
})();

/** Every known case; deterministic. */
export function* knownCases(): Generator<KnownCase> {
  for (const water of ['blue', 'green'] as const)
    for (const depth of DEPTHS) for (const kind of GROUNDS) yield waterCase(water, depth, kind);
  for (const range of [6000, 2500]) for (const kind of GROUNDS) yield hazeCase(range, kind);
  yield land('mixed', 'flat', 'flat', flat);
  yield land('mixed', 'wrong white', 'white', cold);
  yield land('mixed', 'already good', 'good');
}
