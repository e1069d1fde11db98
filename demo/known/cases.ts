import { IDENTITY3, transform, type Mat3, type Vec3 } from '@inkavo/core/colour/matrix';
import { encode709 } from '@inkavo/core/colour/transferTables';
import { luma709 } from '@inkavo/core/colour/ycbcr';
import type { Profile } from '@inkavo/core/model/profile';
import type { PlanarPicture } from '@inkavo/core/program/cpu/planar';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import { drawCamera, drawFlatCurve, record, render, type Camera, type Curve } from './camera';
import { clear, drawHaze, drawWater, drawWhite, tabled, type Conditions } from './conditions';
import { drawDistances } from './distances';
import { drawOpening, type Opening } from './openings';
import type { Part } from './photographs';
import { random, type Random } from './random';
import { drawSurfaces, KNOWN_HEIGHT as H, KNOWN_WIDTH as W } from './surfaces';

/**
 * Faults of known cases. `mixed`: a flat recording of haze, with or without a wrong white; `tinted`: a flat recording
 * of a wrong white.
 */
export const CASE_KINDS = ['water', 'haze', 'flat', 'white', 'good', 'mixed', 'tinted'] as const;
export type CaseKind = (typeof CASE_KINDS)[number];

/** Pictures with known truth, for measuring corrections. */
export interface KnownCase {
  name: string;
  kind: CaseKind;
  part: Part;
  seed: number;
  /** Pictures over the clip, as recorded by the camera. */
  frames: PlanarPicture[];
  /**
   * The first picture as the camera would have recorded it in standard video, without water, haze or a wrong setting:
   * encoded R'G'B', width × height × 3; open water as recorded. This and the next two are computed on demand.
   */
  truth(): Float32Array;
  /** The recording in standard video, with haze, water and white as they are: encoded R'G'B'. */
  standard(): Float32Array;
  /** Transmission of green light from the object to the camera, 0–1, width × height. */
  through(): Float32Array;
  /** Share of open water at each pixel, 0–1, width × height; null in cases without. */
  open: Float32Array | null;
  /** A neutral slate in the first picture, as shares of it; in cases with one. */
  slate: Area | null;
  /** The profile of a flat recording, if it has one. */
  profile: Profile | null;
}

interface Making extends Conditions {
  /** The light of open water at the camera's level; black in air. */
  water: Vec3;
  /** The illuminant with the camera's setting: a wrong white. */
  white: Mat3;
  /** A flat recording's curve, replacing the camera's, and its profile. */
  curve: Curve | null;
  profile: Profile | null;
  depth: 8 | 10;
}

function draw(rng: Random, kind: CaseKind, part: Part, set: Random): Making {
  const plain = {
    words: '',
    see: clear,
    water: [0, 0, 0],
    through: () => 1,
    distances: drawDistances(rng, 1),
    farthest: 1,
    white: IDENTITY3,
    curve: null,
    profile: null,
    depth: 8,
  } as Making;
  if (kind === 'water') return { ...plain, ...drawWater(rng, part) };
  if (kind === 'haze') return { ...plain, ...drawHaze(rng) };
  if (kind === 'good') return plain;
  // A camera that keeps its settings has one white.
  const off = drawWhite(set);
  if (kind === 'white') return { ...plain, words: off.words, white: off.matrix };
  const flat = drawFlatCurve(set);
  const { curve, profile } = flat;
  const depth = set.of([8, 10] as const);
  if (kind === 'flat') return { ...plain, words: flat.name, curve, profile, depth };
  if (kind === 'tinted')
    return { ...plain, words: `${flat.name}, ${off.words}`, white: off.matrix, curve, profile, depth };
  const hazy = drawHaze(rng);
  const both = rng.chance(0.6);
  return {
    ...plain,
    ...hazy,
    words: [flat.name, hazy.words, ...(both ? [off.words] : [])].join(', '),
    white: both ? off.matrix : IDENTITY3,
    curve,
    profile,
    depth,
  };
}

/** Sampling stride of the exposure meter. */
const EVERY = 17;
/**
 * Gain at which the mean luma of a picture, through standard video's curve, reaches the target of automatic exposure.
 */
export function expose(light: Float32Array, aim: number): number {
  let [low, high] = [-12, 12];
  for (let k = 0; k < 30; k += 1) {
    const gain = 2 ** ((low + high) / 2);
    let [sum, count] = [0, 0];
    for (let i = 0; i < light.length; i += 3 * EVERY, count += 1) {
      const of = (c: number): number => encode709(Math.min(1.1, gain * light[i + c]));
      sum += luma709(of(0), of(1), of(2));
    }
    if (sum / count > aim) high = (low + high) / 2;
    else low = (low + high) / 2;
  }
  return 2 ** ((low + high) / 2);
}

const meanLuma = (encoded: Float32Array): number => {
  let sum = 0;
  for (let i = 0; i < encoded.length; i += 3) sum += luma709(encoded[i], encoded[i + 1], encoded[i + 2]);
  return (3 * sum) / encoded.length;
};

/** The slate's size, as shares of the picture. */
const SLATE = { width: 0.09, height: 0.14 };

function layIn(surfaces: Float32Array, slate: Area): void {
  for (let y = Math.floor(slate.y * H); y < (slate.y + slate.height) * H; y += 1)
    for (let x = Math.floor(slate.x * W); x < (slate.x + slate.width) * W; x += 1)
      surfaces.fill(0.5, 3 * (y * W + x), 3 * (y * W + x) + 3);
}

export interface CaseRequest {
  seed: number;
  kind: CaseKind;
  part: Part;
  /** Pictures over the clip, panned slightly from one to the next. */
  pictures?: number;
  /** Whether part of the picture shows open water; under water only. */
  open?: boolean;
  /** Whether the picture contains a neutral slate. */
  slate?: boolean;
  /** Half the width and height, for training on many. */
  half?: boolean;
  /** Photographs are cropped and varied. */
  varied?: boolean;
  /** The seed of the camera: cases with the same one are clips of one camera, with one white, flat curve and depth. */
  camera?: number;
}

/** Half the width and height: means of four pixels. */
function halved(picture: Float32Array): Float32Array {
  const out = new Float32Array(picture.length / 4);
  for (let y = 0; y < H / 2; y += 1)
    for (let x = 0; x < W / 2; x += 1)
      for (let c = 0; c < 3; c += 1) {
        const i = 3 * (2 * y * W + 2 * x) + c;
        out[3 * ((y * W) / 2 + x) + c] =
          (picture[i] + picture[i + 3] + picture[i + 3 * W] + picture[i + 3 * W + 3]) / 4;
      }
  return out;
}

/** One picture's light, its exposure, and the truth. */
interface Shot {
  light: Float32Array;
  gain: number;
  truth: () => Float32Array;
  /** In standard video. */
  asRecorded: () => Float32Array;
}

/** The view with open water added. */
function withWater(thing: Vec3, water: Readonly<Vec3>, opening: Opening | null, x: number, y: number): Vec3 {
  const share = opening?.share(x, y) ?? 0;
  if (share === 0) return thing;
  const light = opening!.light(x, y);
  return thing.map((v, c) => v + share * (water[c] * light[c] - v)) as Vec3;
}

/** Blends two pictures by shares. */
const mixed = (a: Float32Array, b: Float32Array, shares: Float32Array): Float32Array =>
  a.map((v, i) => v + shares[Math.floor(i / 3)] * (b[i] - v));

/** Memoises a function without arguments. */
function once<T>(make: () => T): () => T {
  let made: { value: T } | undefined;
  return () => (made ??= { value: make() }).value;
}

/** Applies a function to each pixel of a picture; it receives the same array each time. */
function eachPixel(picture: Float32Array, f: (pixel: Vec3, i: number) => Readonly<Vec3>): Float32Array {
  const out = new Float32Array(picture.length);
  const pixel: Vec3 = [0, 0, 0];
  for (let i = 0, p = 0; p < picture.length; i += 1, p += 3) {
    for (let c = 0; c < 3; c += 1) pixel[c] = picture[p + c];
    const got = f(pixel, i);
    for (let c = 0; c < 3; c += 1) out[p + c] = got[c];
  }
  return out;
}

/** Share of the cases on synthetic ground. */
const MADE = { water: 0.2, haze: 0.05, flat: 0.05, white: 0, good: 0, mixed: 0.05, tinted: 0 } as const;

/** Makes a known case from its seed; deterministic. */
export function makeCase({
  seed,
  kind,
  part,
  pictures = 2,
  open = false,
  slate = false,
  half = false,
  varied = false,
  camera: body,
}: CaseRequest): KnownCase {
  const rng = random(seed * 31 + CASE_KINDS.indexOf(kind));
  const surfaces = drawSurfaces(rng, part, MADE[kind], kind === 'water', varied);
  const set = body === undefined ? rng : random(body);
  const drawn = drawCamera(set);
  const making = draw(rng, kind, part, set);
  const [w, h] = half ? [W / 2, H / 2] : [W, H];
  // Means of four pixels have half the noise.
  const [shot, read] = drawn.noise.map((v) => (half ? v / 2 : v));
  const camera: Camera = { ...drawn, noise: [shot, read], depth: making.depth };
  const area: Area | null = slate
    ? { x: rng.between(0.05, 0.85), y: rng.between(0.05, 0.8), width: SLATE.width, height: SLATE.height }
    : null;
  const { distances } = making;
  const pan = rng.between(0, 0.4);
  const off = rng.normal(0.1);
  const opening = open ? drawOpening(rng) : null;
  const place = (i: number): [x: number, y: number] => [(i % w) / w, Math.floor(i / w) / h];
  const openAt = opening && new Float32Array(w * h).map((_, i) => opening.share(...place(i)));
  const shoot = (k: number): Shot => {
    const surface = surfaces.at(Math.min(1, pan + 0.6 * (k / Math.max(1, pictures - 1))));
    if (area && k === 0) layIn(surface, area);
    const seen = half ? halved(surface) : surface;
    const light = eachPixel(seen, (s, i) =>
      transform(making.white, withWater(making.see(s, distances.at(...place(i))), making.water, opening, ...place(i))),
    );
    const bare = once(() => eachPixel(seen, (s) => render(camera, camera.curve, clear(s))));
    // Automatic exposure brings all scenes to similar levels; good pictures are unchanged.
    const gain =
      kind === 'water' || kind === 'haze' || kind === 'mixed'
        ? expose(light, Math.min(0.62, meanLuma(bare()) * Math.exp(off)))
        : 1;
    const asRecorded = once(() =>
      eachPixel(light, ([r, g, b]) => render(camera, camera.curve, [gain * r, gain * g, gain * b])),
    );
    const truth = once(() => (openAt ? mixed(bare(), asRecorded(), openAt) : bare()));
    return { light, gain, truth, asRecorded };
  };
  const shots = Array.from({ length: pictures }, (_, k) => {
    const shot = shoot(k);
    return { ...shot, frame: record(camera, making.curve ?? camera.curve, shot.light, shot.gain, w, h, rng) };
  });
  const [{ truth, asRecorded }] = shots;
  return {
    name: [kind, surfaces.name, making.words, distances.name, opening?.name, camera.name].filter(Boolean).join(' · '),
    kind,
    part,
    seed,
    frames: shots.map((shot) => shot.frame),
    truth,
    standard: asRecorded,
    open: openAt,
    through: once(() => {
      const at = tabled(making.through, making.farthest);
      return new Float32Array(w * h).map((_, i) => at(distances.at(...place(i))));
    }),
    slate: area,
    profile: making.profile,
  };
}
