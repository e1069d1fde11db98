import type { Vec3 } from '@inkavo/core/colour/matrix';
import { WHITES } from '@inkavo/core/colour/primaries';
import { STANDARD } from '@inkavo/core/model/profile';
import { encoder, type CameraModel } from '../camera';
import { fractal, hash, mix, smoothstep } from '../noise';
import { boardAt, placesOn } from '../patches';
import { cutFrame, layOver, paintPlate } from '../plate';
import { skyAt } from './sky';
import type { Scene } from './types';

const W = 1920;
const H = 1080;
const FRAMES = 180;
const SHORE = 660;
const MARGIN = 24;

const camera: CameraModel = { profile: STANDARD, depth: 8, sees: WHITES.D65, noise: 0.7, corners: 0, exposure: 1 };

const SHED = { left: 820, right: 1440, eaves: 330, ridge: 210, foot: 640 };
const BOARD = { left: 900, top: 420, width: 280, height: 140 };

/** Far bank, boat shed and sky; returns false elsewhere. */
function land(x: number, y: number, out: Vec3): void {
  const treeline = 330 + 70 * fractal(x / 130, 1, 5, 12) - 20;
  skyAt(x / W, Math.max(0, (SHORE - 260 - y) / 420), out, 1.02);
  if (y > treeline) {
    const leaf = fractal(x / 26, y / 22, 6, 7);
    const sun = 0.4 + 1.1 * leaf - 0.35 * ((y - treeline) / 330);
    [out[0], out[1], out[2]] = [0.09 * sun, 0.16 * sun, 0.045 * sun];
  }
  if (y > 560) {
    const blade = fractal(x / 5, y / 60, 4, 19);
    const t = smoothstep(540, 620, y + 60 * fractal(x / 14, 4, 3, 8));
    const reed: Vec3 = [0.24 * blade + 0.06, 0.23 * blade + 0.07, 0.08 * blade + 0.02];
    for (let i = 0; i < 3; i += 1) out[i] = mix(out[i], reed[i] * 1.15, t);
  }
  const slope = SHED.ridge + (Math.abs(x - (SHED.left + SHED.right) / 2) / 340) * (SHED.eaves - SHED.ridge + 22);
  if (y > slope && y < SHED.eaves + 34 && x > SHED.left - 34 && x < SHED.right + 34) {
    const tile = 0.7 + 0.5 * hash(x >> 4, (y + ((x >> 4) & 1) * 6) / 11, 4);
    [out[0], out[1], out[2]] = [0.3 * tile, 0.075 * tile, 0.05 * tile];
  }
  if (x > SHED.left && x < SHED.right && y > SHED.eaves + 24 && y < SHED.foot) {
    const plank = (y % 26) / 26;
    const wood = 0.75 + 0.3 * fractal(x / 60, y / 4, 3, 14) - (plank < 0.09 ? 0.35 : 0);
    const shade = y < SHED.eaves + 60 ? 0.45 : 1;
    [out[0], out[1], out[2]] = [0.46 * wood * shade, 0.44 * wood * shade, 0.4 * wood * shade];
    if (x > 1230 && x < 1390 && y > 430) {
      const door = 0.8 + 0.2 * fractal(x / 3, y / 90, 3, 2);
      [out[0], out[1], out[2]] = [0.05 * door, 0.13 * door, 0.17 * door];
    }
  }
  const u = (x - BOARD.left) / BOARD.width;
  const v = (y - BOARD.top) / BOARD.height;
  if (u > -0.03 && u < 1.03 && v > -0.06 && v < 1.06) {
    const patch = u >= 0 && u < 1 && v >= 0 && v < 1 ? boardAt(u, v) : undefined;
    for (let i = 0; i < 3; i += 1) out[i] = patch ? patch[i] : 0.02;
  }
}

function water(x: number, y: number, out: Vec3): void {
  const depth = (y - SHORE) / (H - SHORE);
  const wobble = 18 * (fractal(x / 90, y / (5 + 22 * depth), 3, 31) - 0.5) * (0.3 + depth);
  land(x + wobble, SHORE - (y - SHORE) * 1.02 + wobble * 0.6, out);
  const ripple = fractal(x / (30 + 90 * depth), y / (2.5 + 9 * depth), 4, 23);
  const glint = Math.pow(ripple, 9) * 5.5;
  const see = 0.3 + 0.35 * depth;
  const own: Vec3 = [0.045, 0.075, 0.065];
  for (let i = 0; i < 3; i += 1) out[i] = mix(out[i] * 0.8, own[i], see) * (0.75 + 0.5 * ripple) + glint;
}

export const bank: Scene = {
  folder: 'BANK_CAMERA',
  file: 'boat_shed_01.mp4',
  width: W,
  height: H,
  fps: 30,
  frames: FRAMES,
  codec: 'h264',
  camera,
  hum: 90,
  light: 1,
  prepare() {
    const encode = encoder(camera);
    const plate = paintPlate(W + 2 * MARGIN, H, (x, y, out) => (y < SHORE ? land : water)(x - MARGIN, y, out), encode);
    const reeds = paintPlate(
      620,
      420,
      (x, y, out) => {
        const stem = hash(x >> 2, 0, 71);
        const tall = 40 + 260 * Math.pow(fractal(x / 40, 1, 3, 72), 1.4) + 90 * stem;
        const lit = (0.5 + 0.7 * stem) * mix(1.1, 0.45, y / 420);
        [out[0], out[1], out[2]] = [0.2 * lit, 0.26 * lit, 0.06 * lit];
        const edge = smoothstep(0, 200, 620 - x);
        return y > 420 - tall * edge && stem > 0.25 ? 1 : 0;
      },
      encode,
    );
    return (i, frame) => {
      const t = i / 30;
      const shimmer = (row: number): number =>
        row < SHORE ? 0 : (1 + 7 * ((row - SHORE) / (H - SHORE))) * Math.sin(row / (4 + (row - SHORE) / 26) - t * 3.1);
      cutFrame(plate, frame, (row) => MARGIN + shimmer(row));
      layOver(reeds, frame, -30, H - 400, (row) => 10 * Math.pow((420 - row) / 420, 2) * Math.sin(t * 1.3 + row / 300));
    };
  },
  patches: () => placesOn(BOARD.left, BOARD.top, BOARD.width, BOARD.height),
};
