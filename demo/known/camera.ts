import type { Vec3 } from '@inkavo/core/colour/matrix';
import { srgb } from '@inkavo/core/colour/transfer';
import { encode709 } from '@inkavo/core/colour/transferTables';
import { codeScale, rgbToYcbcr } from '@inkavo/core/colour/ycbcr';
import type { Profile } from '@inkavo/core/model/profile';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { smoothstep } from '../noise';
import type { Random } from './random';

/** From light (1 = white) to code values 0–1, per channel. */
export type Curve = (light: number) => number;

const above0 =
  (f: Curve): Curve =>
  (v) =>
    v <= 0 ? 0 : f(v);
/** Curves of standard video: the standard's own and those of typical cameras. */
const STANDARD_CURVES: Record<string, Curve> = {
  bt709: encode709,
  srgb: srgb.encode,
  'gamma 2.2': above0((v) => v ** (1 / 2.2)),
  'gamma 2.4': above0((v) => v ** (1 / 2.4)),
  'toe and shoulder': (v) => {
    const e = encode709(v);
    return e + 0.3 * (smoothstep(0, 1, Math.min(1, Math.max(0, e))) - Math.min(1, Math.max(0, e)));
  },
};

/** A made-up camera's colour rendering. */
export interface Camera {
  name: string;
  /** From light to the output of the sensor's channels; neutral stays neutral. */
  matrix: readonly Vec3[];
  curve: Curve;
  /** Sensor noise: standard deviations at white and in black, of light 0–1. */
  noise: readonly [shot: number, read: number];
  depth: 8 | 10;
}

export function drawCamera(rng: Random): Camera {
  const vivid = rng.between(-0.15, 0.3);
  const curve = rng.chance(0.35) ? 'bt709' : rng.of(Object.keys(STANDARD_CURVES));
  const iso = rng.scaled(0.3, 3);
  return {
    name: curve,
    // More or less saturated than the light, with slightly different cross-channel weights.
    matrix: [0, 1, 2].map((c) => {
      const row: Vec3 = [0, 0, 0];
      for (let k = 0; k < 3; k += 1) row[k] = k === c ? 0 : -vivid / 2 + rng.normal(0.04);
      row[c] = 1 - row[0] - row[1] - row[2];
      return row;
    }),
    curve: STANDARD_CURVES[curve],
    noise: [0.014 * Math.sqrt(iso), 0.001 * iso],
    depth: 8,
  };
}

/**
 * A flat recording, with its profile if there is one: either lifted and compressed standard video, or a logarithmic
 * curve (Common LUT Format's camera form).
 */
export function drawFlatCurve(rng: Random): { name: string; curve: Curve; profile: Profile | null } {
  if (rng.chance(0.5)) {
    const [black, span] = [rng.between(0.08, 0.24), rng.between(0.45, 0.62)];
    return { name: 'lifted', curve: (v) => black + span * encode709(v), profile: null };
  }
  // Black, white, and the opening of the shadows.
  const [black, white, open] = [rng.between(0.07, 0.2), rng.between(0.62, 0.85), rng.scaled(20, 200)];
  const end = Math.log1p(open);
  const transfer = {
    ...{ kind: 'logCamera' as const, base: Math.E, logSideSlope: (white - black) / end, logSideOffset: black },
    ...{ linSideSlope: open, linSideOffset: 1, linSideBreak: 0 },
  };
  return {
    name: 'log',
    curve: (v) => black + ((white - black) * Math.log1p(open * Math.max(-0.3 / open, v))) / end,
    profile: { name: 'Drawn', transfer, primaries: 'bt709' },
  };
}

const formatOf = (width: number, height: number, depth: 8 | 10): PlanarFormat => ({
  width,
  height,
  depth,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
});

/** Code values of a light with this camera, not clipped, without noise. */
export function render({ matrix }: Camera, curve: Curve, [r, g, b]: Readonly<Vec3>): Vec3 {
  const through = (row: Readonly<Vec3>): number => curve(row[0] * r + row[1] * g + row[2] * b);
  return [through(matrix[0]), through(matrix[1]), through(matrix[2])];
}

/** Records a picture of light: colour, noise, curve, quantisation, chroma subsampling 4:2:0 (left-sited). */
export function record(
  camera: Camera,
  curve: Curve,
  light: Float32Array,
  gain: number,
  width: number,
  height: number,
  rng: Random,
): PlanarPicture {
  const format = formatOf(width, height, camera.depth);
  const picture = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  const s = codeScale(camera.depth, 'limited');
  const [low, high] = camera.depth === 8 ? [1, 254] : [4, 1019];
  const chroma = new Float32Array(width * height * 2);
  const [shot, read] = camera.noise;
  const seen: Vec3 = [0, 0, 0];
  for (let i = 0; i < width * height; i += 1) {
    for (let c = 0; c < 3; c += 1) {
      const v = gain * light[3 * i + c];
      seen[c] = v + rng.normal(Math.sqrt(shot * shot * Math.max(0, v) + read * read));
    }
    const [r, g, b] = render(camera, curve, seen);
    const [y, cb, cr] = rgbToYcbcr([Math.min(1.05, r), Math.min(1.05, g), Math.min(1.05, b)], 'bt709');
    picture.y[i] = Math.min(high, Math.max(low, Math.round(y * s.yScale + s.yOffset)));
    chroma[2 * i] = cb;
    chroma[2 * i + 1] = cr;
  }
  const half = width / 2;
  /** A row's chroma at half its width: filter 1, 2, 1 quarters, left-sited, halved, since two rows are added. */
  const across = (row: number, x: number, k: number): number => {
    const at = (column: number): number => chroma[2 * (row * width + column) + k];
    return 0.125 * at(Math.max(0, 2 * x - 1)) + 0.25 * at(2 * x) + 0.125 * at(2 * x + 1);
  };
  [picture.cb, picture.cr].forEach((plane, k) => {
    for (let y = 0; y < height / 2; y += 1)
      for (let x = 0; x < half; x += 1) {
        const sum = across(2 * y, x, k) + across(2 * y + 1, x, k);
        plane[y * half + x] = Math.min(high, Math.max(low, Math.round(sum * s.cScale + s.cOffset)));
      }
  });
  return picture;
}
