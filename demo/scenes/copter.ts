import type { Vec3 } from '@inkavo/core/colour/matrix';
import { kelvinToXy } from '@inkavo/core/colour/temperature';
import { PROFILES } from '@inkavo/core/model/profile';
import { encoder, type CameraModel } from '../camera';
import { clamp01, fractal, hash, mix, smoothstep } from '../noise';
import { boardAt, placesOn } from '../patches';
import { cutFrame, layOver, paintPlate } from '../plate';
import { skyAt } from './sky';
import type { Scene } from './types';

const W = 3840;
const H = 2160;
const FPS = 30;
const FRAMES = 120;
const HORIZON = 700;
/** Movement of the lowest row over the whole clip, pixels. */
const TRAVEL = 374;
const HEIGHT_M = 38;
const FOCAL = 2900;

const camera: CameraModel = {
  profile: PROFILES.find((p) => p.name === 'Drone log, 10 bit')!,
  depth: 10,
  sees: kelvinToXy({ kelvin: 5200, duv: 0.006 }),
  noise: 2.6,
  corners: 0,
  exposure: 1,
};

const AIRLIGHT: Vec3 = [0.62, 0.7, 0.8];

/** Ground of an estuary at metres (x, z): mud, reed, meandering water. */
function ground(x: number, z: number, detail: number, out: Vec3): void {
  const bend = 60 * Math.sin(z / 140 + 0.6) + 34 * Math.sin(z / 61 + 2.1);
  const warp = 26 * (fractal(x / 90, z / 90, 3, 5) - 0.5);
  const main = Math.abs(((x - bend + warp + 4000) % 260) - 130);
  const side = Math.abs(((z * 0.8 + x * 0.35 + 40 * Math.sin(x / 70) + warp * 2 + 8000) % 330) - 165);
  const width = 17 + 9 * fractal(x / 50, z / 70, 2, 9);
  const water = 1 - smoothstep(width - 3, width + 2, Math.min(main, side * 1.6));
  const bank = (1 - smoothstep(width + 2, width + 13, Math.min(main, side * 1.6))) * (1 - water);
  const reed = fractal(x / 7, z / 7, detail, 21);
  const tuft = fractal(x / 1.4, z / 2.2, Math.max(1, detail - 1), 33);
  const patchy = fractal(x / 60, z / 45, 3, 51);
  const green: Vec3 = [mix(0.07, 0.2, patchy), mix(0.13, 0.2, patchy), mix(0.035, 0.06, patchy)];
  const light = 0.45 + 0.75 * reed + 0.5 * (tuft - 0.5);
  const glint = Math.pow(clamp01(fractal(x / 3, z / 1.1, 3, 61) * 1.25), 8) * 0.5;
  const mud: Vec3 = [0.17, 0.13, 0.09];
  const sheen: Vec3 = [0.13 + glint, 0.19 + glint, 0.27 + glint];
  for (let i = 0; i < 3; i += 1) {
    const land = mix(green[i] * light, mud[i] * (0.6 + 0.7 * tuft), bank);
    out[i] = mix(land, sheen[i] * (0.7 + 0.5 * reed), water);
  }
}

const BOARD = { width: 640, height: 320, left: 2180, top: 1420 };
const speedOf = (row: number): number => (TRAVEL * Math.max(0, row - HORIZON)) / (H - HORIZON);
/** Vertical position of the board in frame i, in even pixels. */
const boardShift = (i: number): number => Math.round((speedOf(BOARD.top + BOARD.height) * i) / FRAMES / 2) * 2;

export const copter: Scene = {
  folder: 'QUADCOPTER',
  file: 'channel_east_03.mp4',
  width: W,
  height: H,
  fps: FPS,
  frames: FRAMES,
  codec: 'hevc',
  camera,
  hum: 180,
  light: 1,
  prepare() {
    const encode = encoder(camera);
    const plate = paintPlate(
      W + TRAVEL + 8,
      H,
      (x, y, out) => {
        if (y < HORIZON) {
          skyAt(x / W, (HORIZON - y) / HORIZON, out, 1.25);
          const low = Math.exp(-(HORIZON - y) / 60);
          for (let i = 0; i < 3; i += 1) out[i] = mix(out[i], AIRLIGHT[i], low);
          return;
        }
        const distance = (HEIGHT_M * FOCAL) / (y - HORIZON + 4);
        const detail = distance < 150 ? 5 : distance < 500 ? 4 : distance < 1500 ? 2 : 1;
        ground(((x - W / 2) * distance) / FOCAL, distance, detail, out);
        const cloudShade = 0.72 + 0.4 * smoothstep(0.35, 0.6, fractal(x / 1500, distance / 420, 3, 91));
        const t = Math.exp(-distance / 900);
        for (let i = 0; i < 3; i += 1) out[i] = mix(AIRLIGHT[i], out[i] * cloudShade * 1.5, t);
      },
      encode,
    );
    const frameWidth = 28;
    const board = paintPlate(
      BOARD.width + 2 * frameWidth,
      BOARD.height + 2 * frameWidth + 60,
      (x, y, out) => {
        const u = (x - frameWidth) / BOARD.width;
        const v = (y - frameWidth) / BOARD.height;
        if (u >= 0 && u < 1 && v >= 0 && v < 1) {
          const patch = boardAt(u, v);
          for (let i = 0; i < 3; i += 1) out[i] = patch ? patch[i] : 0.02;
          return 1;
        }
        if (y < BOARD.height + 2 * frameWidth) {
          const grain = 0.8 + 0.4 * hash(x >> 4, y >> 1, 3);
          [out[0], out[1], out[2]] = [0.3 * grain, 0.22 * grain, 0.15 * grain];
          return 1;
        }
        [out[0], out[1], out[2]] = [0.025, 0.03, 0.02];
        const shadow = 1 - (y - BOARD.height - 2 * frameWidth) / 60;
        return 0.75 * shadow;
      },
      encode,
    );
    return (i, frame) => {
      cutFrame(plate, frame, (row) => (speedOf(row) * i) / FRAMES);
      layOver(board, frame, BOARD.left - frameWidth - boardShift(i), BOARD.top - frameWidth);
    };
  },
  patches: (i) => placesOn(BOARD.left - boardShift(i), BOARD.top, BOARD.width, BOARD.height),
};
