import type { Vec3 } from '@inkavo/core/colour/matrix';
import { WHITES } from '@inkavo/core/colour/primaries';
import { bt709 } from '@inkavo/core/colour/transfer';
import { STANDARD } from '@inkavo/core/model/profile';
import type { CameraModel } from '../camera';
import { fractal, hash, mix, smoothstep } from '../noise';
import { placesOn } from '../patches';
import { inWater, look, type Water } from '../known/spectra';
import type { Scene } from './types';

const W = 1920;
const H = 1080;
const FPS = 30;
const EDGE = 330;

const camera: CameraModel = { profile: STANDARD, depth: 8, sees: WHITES.D65, noise: 1.0, corners: 0, exposure: 1 };

/** Differences between the clips of this camera. */
interface Descent {
  file: string;
  frames: number;
  water: Water;
  /** Depth in metres at a time of the clip. */
  depthAt(seconds: number): number;
  /** Offset of the bottom, so that each clip shows another place. */
  along: number;
  /** Whether a white slate is held in view during the first second. */
  slate: boolean;
  /** By the camera's clock, see `Scene`. */
  recordedAt?: string;
}

/** Distance beyond which only water is visible, in metres. */
const FAR = 60;

/** Light on a nearby white object, and of open water, at a depth: summed over wavelengths. */
function waterAt(water: Water, depth: number): { light: Vec3; veil: Vec3 } {
  return { light: look(inWater(water, depth, 0), [1, 1, 1]), veil: inWater(water, depth, FAR).veil };
}
/** Attenuation of light on its way to the camera, per metre, nearly independent of depth. */
function lossAcross(water: Water): Vec3 {
  const [near, away] = [look(inWater(water, 7, 0), [1, 1, 1]), inWater(water, 7, 2)];
  const seen = look({ ...away, veil: [0, 0, 0] }, [1, 1, 1]);
  return near.map((n, c) => Math.log(n / seen[c]) / 2) as Vec3;
}

/** Bottom of shell sand, eelgrass and a mooring block: reflectance. */
function bottom({ along, slate }: Descent, x: number, y: number, out: Vec3): void {
  const near = (y - EDGE) / (H - EDGE);
  const px = ((x - W / 2) * 1.6) / (0.25 + near) + 4000 + along;
  const pz = 900 / (0.12 + near);
  const sand = 0.62 + 0.3 * fractal(px / 60, pz / 40, 5, 3);
  const furrow = 0.9 + 0.14 * Math.sin(pz / 14 + 4 * fractal(px / 190, pz / 90, 2, 8));
  [out[0], out[1], out[2]] = [0.55 * sand * furrow, 0.5 * sand * furrow, 0.4 * sand * furrow];
  if (hash(px / 9, pz / 12, 5) > 0.985) out[0] = out[1] = out[2] = 0.78;
  const weed = smoothstep(0.5, 0.6, fractal(px / 420, pz / 300, 3, 15));
  const leaf = fractal(px / 12, pz / 60, 4, 25);
  const green: Vec3 = [0.1 * leaf, 0.24 * leaf, 0.05 * leaf];
  for (let i = 0; i < 3; i += 1) out[i] = mix(out[i], green[i], weed * 0.9);
  // The block is where the slate is held: other clips show the open bottom.
  if (!slate) return;
  const bx = (x - 1390) / 190;
  const by = (y - 690) / 150;
  if (Math.abs(bx) < 1 && by > -1 && by < 1) {
    const face = by < -0.55 ? 1.15 : bx > 0.35 ? 0.55 : 0.8;
    const rough = 0.7 + 0.5 * fractal(x / 16, y / 16, 4, 35);
    [out[0], out[1], out[2]] = [0.3 * face * rough, 0.28 * face * rough, 0.25 * face * rough];
  } else if (by >= 1 && by < 1.35 && Math.abs(bx + 0.2) < 1.2) for (let i = 0; i < 3; i += 1) out[i] *= 0.45;
  if (Math.abs(x - 1390 - 14 * Math.sin(y / 17)) < 8 && y < 560) [out[0], out[1], out[2]] = [0.34, 0.12, 0.06];
}

const SLATE = { left: 560, top: 420, width: 520, height: 330 };
const BLADES = 60;

/** Seconds after which the slate has left the picture. */
const SLATE_SECONDS = 1.2;
const slateShift = (seconds: number): number =>
  seconds < 1 ? 0 : -Math.pow((seconds - 1) / (SLATE_SECONDS - 1), 2) * 1200;
const SLATE_DISTANCE = 0.6;

const sceneOf = (descent: Descent): Scene => ({
  folder: 'DIVE_HOUSING',
  file: descent.file,
  width: W,
  height: H,
  fps: FPS,
  frames: descent.frames,
  codec: 'h264',
  camera,
  hum: 60,
  light: 1,
  dive: descent,
  recordedAt: descent.recordedAt,
  prepare() {
    const across = lossAcross(descent.water);
    const count = W * H;
    const colour = new Float32Array(count * 3);
    const left = new Float32Array(count * 3);
    const rgb: Vec3 = [0, 0, 0];
    for (let y = 0; y < H; y += 1) {
      // The bottom's distance grows towards its edge; above is open water.
      const distance = y <= EDGE ? 60 : Math.min(60, 2.1 / ((y - EDGE) / (H - EDGE) + 0.045));
      for (let x = 0; x < W; x += 1) {
        const p = (y * W + x) * 3;
        if (y > EDGE) bottom(descent, x, y, rgb);
        else rgb[0] = rgb[1] = rgb[2] = 0;
        for (let c = 0; c < 3; c += 1) {
          colour[p + c] = rgb[c];
          left[p + c] = Math.exp(-across[c] * distance);
        }
      }
    }
    const blades = Array.from({ length: BLADES }, (_, k) => ({
      x: 40 + 640 * hash(k, 1, 81) + (k % 3 === 0 ? 1100 : 0),
      foot: 800 + 290 * hash(k, 2, 81),
      tall: 220 + 260 * hash(k, 3, 81),
      lit: 0.6 + 0.8 * hash(k, 4, 81),
      phase: 6 * hash(k, 5, 81),
    })).sort((a, b) => a.foot - b.foot);
    const bladeAcross = across.map((k) => Math.exp(-k * 1.6));
    const slateAcross = across.map((k) => Math.exp(-k * SLATE_DISTANCE));

    const table = new Float32Array(16384);
    for (let i = 0; i < table.length; i += 1) table[i] = bt709.encode((i / table.length) * 1.25);
    const encode = (v: number): number => table[Math.min(16383, (v * 13107.2) | 0)];
    const layer = new Float32Array(count * 3);
    const layerT = new Float32Array(count * 3);

    return (i, frame) => {
      const t = i / FPS;
      const { light, veil } = waterAt(descent.water, descent.depthAt(t));
      const gain = 0.5 / (light[1] * 0.5 + veil[1] * 0.5);
      layer.set(colour);
      layerT.set(left);
      const put = (x: number, y: number, r: number, g: number, b: number, thin: readonly number[]): void => {
        if (x < 0 || x >= W || y < 0 || y >= H) return;
        const p = (y * W + x) * 3;
        [layer[p], layer[p + 1], layer[p + 2]] = [r, g, b];
        [layerT[p], layerT[p + 1], layerT[p + 2]] = thin;
      };
      for (const blade of blades) {
        for (let h = 0; h < blade.tall; h += 1) {
          const up = h / blade.tall;
          const x = blade.x + 46 * up * up * Math.sin(t * 1.2 + blade.phase + up);
          const half = 7 * (1 - up * 0.7);
          for (let d = -half; d < half; d += 1) {
            const lit = blade.lit * (0.6 + 0.6 * up) * (d < 0 ? 1 : 0.7);
            put(Math.round(x + d), Math.round(blade.foot - h), 0.09 * lit, 0.21 * lit, 0.045 * lit, bladeAcross);
          }
        }
      }
      if (descent.slate && t < SLATE_SECONDS) {
        const move = Math.round(slateShift(t));
        for (let y = 0; y < SLATE.height; y += 1) {
          for (let x = 0; x < SLATE.width; x += 1) {
            const rim = x < 14 || y < 14 || x >= SLATE.width - 14 || y >= SLATE.height - 14;
            const line = y > 200 && y % 34 < 3 && x > 60 && x < 380 + 80 * hash(y / 34, 3, 6);
            const v = rim ? 0.06 : line ? 0.12 : 0.8;
            put(SLATE.left + x + move, SLATE.top + y, v, v, v, slateAcross);
          }
        }
      }
      for (let k = 0; k < 260; k += 1) {
        const px = (hash(k, 6, 91) * W + t * (14 + 40 * hash(k, 7, 91))) % W;
        const py = (hash(k, 8, 91) * H + t * (10 + 22 * hash(k, 9, 91))) % H;
        const size = hash(k, 3, 91) > 0.9 ? 2 : 1;
        for (let a = 0; a < size * size; a += 1)
          put(Math.floor(px) + (a % size), Math.floor(py) + Math.floor(a / size), 0.75, 0.75, 0.7, slateAcross);
      }
      const ray = (x: number, y: number): number =>
        1 + 0.16 * Math.sin(x / 90 + y / 260 + t * 0.9) * Math.sin(x / 37 - y / 300 - t * 0.6);
      for (let y = 0; y < H; y += 1) {
        const glow = y < EDGE + 200 ? 1 + 0.55 * (1 - y / (EDGE + 200)) : 1;
        for (let x = 0; x < W; x += 1) {
          const p = (y * W + x) * 3;
          const sun = (x & 7) === 0 || x === 0 ? ray(x, y) : lastRay;
          lastRay = sun;
          const shade = descent.slate && t < SLATE_SECONDS && layerT[p] === slateAcross[0] ? 1 : sun;
          const r = encode(gain * (layer[p] * light[0] * shade * layerT[p] + veil[0] * glow * (1 - layerT[p])));
          const g = encode(
            gain * (layer[p + 1] * light[1] * shade * layerT[p + 1] + veil[1] * glow * (1 - layerT[p + 1])),
          );
          const b = encode(
            gain * (layer[p + 2] * light[2] * shade * layerT[p + 2] + veil[2] * glow * (1 - layerT[p + 2])),
          );
          const luma = 0.2126 * r + 0.7152 * g + 0.0722 * b;
          frame.y[y * W + x] = 16 + 219 * luma;
          if ((x & 1) === 0 && (y & 1) === 0) {
            const c = (y >> 1) * (W >> 1) + (x >> 1);
            frame.cb[c] = 128 + (224 * (b - luma)) / 1.8556;
            frame.cr[c] = 128 + (224 * (r - luma)) / 1.5748;
          }
        }
      }
    };
  },
  patches: (i) =>
    descent.slate && i / FPS < 1
      ? placesOn(SLATE.left, SLATE.top, SLATE.width, SLATE.height)
          .slice(0, 1)
          .map((p) => ({
            ...p,
            name: 'slate',
            x: SLATE.left + 60,
            y: SLATE.top + 40,
            width: 400,
            height: 130,
          }))
      : [],
});
let lastRay = 1;

/** Green coastal water, between two of the published types; descending. */
export const dive = sceneOf({
  file: 'mooring_block_02.mp4',
  frames: 240,
  water: { types: ['C1', 'C3'], second: 0.25 },
  depthAt: (seconds) => 5 + 5 * smoothstep(0.5, 7.5, seconds),
  along: 0,
  slate: true,
});
/** The same water near the surface, during the descent: at the depth in the dive's log. */
export const eelgrassShallow = sceneOf({
  file: 'eelgrass_03.mp4',
  frames: 90,
  water: { types: ['C1', 'C3'], second: 0.25 },
  depthAt: () => 3,
  recordedAt: '2031-06-14T09:19:02Z',
  along: 5200,
  slate: false,
});
/** Deeper on another dive, in murkier water. */
export const eelgrassDeep = sceneOf({
  file: 'eelgrass_05.mp4',
  frames: 90,
  water: { types: ['C1', 'C3'], second: 0.5 },
  depthAt: (seconds) => 8 + seconds / 3,
  recordedAt: '2031-06-14T10:41:00Z',
  along: 9100,
  slate: false,
});
