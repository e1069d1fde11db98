import type { Vec3 } from '@inkavo/core/colour/matrix';
import { kelvinToXy } from '@inkavo/core/colour/temperature';
import { PROFILES } from '@inkavo/core/model/profile';
import { cornerDarkener, cornerGain, encoder, type CameraModel } from '../camera';
import { fractal, hash, mix, smoothstep } from '../noise';
import { boardAt, placesOn } from '../patches';
import { cutFrame, layOver, paintPlate } from '../plate';
import { skyAt } from './sky';
import type { Scene } from './types';

const W = 1920;
const H = 1080;
const FPS = 60;
const HORIZON = 430;
const MARGIN = 90;

/** Differences between the clips of this camera. */
interface Trip {
  file: string;
  frames: number;
  /** The illuminant with the camera's white setting. */
  kelvin: number;
  exposure: number;
  /** Offset of the reeds, so that each clip shows another place. */
  along: number;
  /** Brightness of the sky. */
  sky: number;
  /** Whether the board with known colours is on the bow. */
  board: boolean;
}

const cameraOf = ({ kelvin, exposure }: Trip): CameraModel => ({
  profile: PROFILES.find((p) => p.name === 'Action camera flat')!,
  depth: 8,
  // The light is bluer than the camera's setting.
  sees: kelvinToXy({ kelvin, duv: 0.006 }),
  noise: 1.1,
  corners: 0.45,
  exposure,
});

/** A channel between reed beds, seen from a boat. */
function channel({ along, sky }: Trip, x: number, y: number, out: Vec3): void {
  const side = Math.abs(x - W * 0.52) / (W / 2);
  const reedTop = HORIZON - 14 - 150 * Math.pow(side, 1.5) - 60 * side * fractal(x / 22 + along, 2, 5, 3);
  const waterline = HORIZON + 10 + 300 * Math.pow(Math.max(0, side - 0.1), 2);
  if (y < reedTop) return skyAt(x / W + along, (HORIZON - y) / HORIZON, out, sky);
  if (y < waterline) {
    const stalk = fractal(x / (3 + 5 * side), y / 55, 5, 13);
    const clump = fractal(x / 80 + along, y / 70, 3, 17);
    const sun = (0.25 + 1.3 * stalk) * (0.6 + 0.7 * clump) * mix(1.15, 0.4, smoothstep(reedTop, waterline, y));
    [out[0], out[1], out[2]] = [0.27 * sun, 0.26 * sun, 0.075 * sun];
    return;
  }
  const depth = (y - HORIZON) / (H - HORIZON);
  const wobble = 46 * (fractal(x / 130, y / (4 + 40 * depth), 3, 29) - 0.5);
  const mirrored = HORIZON - (y - HORIZON) * 0.75;
  if (mirrored > reedTop + 40 * depth) {
    const lit = 0.3 + 0.5 * fractal((x + wobble) / 40, y / 60, 3, 14);
    [out[0], out[1], out[2]] = [0.12 * lit, 0.125 * lit, 0.05 * lit];
  } else skyAt((x + wobble) / W + along, Math.max(0, (HORIZON - mirrored + wobble) / HORIZON), out, 0.57 * sky);
  const ripple = fractal(x / (40 + 120 * depth), y / (3 + 16 * depth), 4, 37);
  const own: Vec3 = [0.05, 0.075, 0.06];
  for (let i = 0; i < 3; i += 1) out[i] = mix(out[i], own[i], 0.25 + 0.5 * depth) * (0.55 + 0.9 * ripple);
}

const BOW = { width: 900, height: 420 };
const BOARD = { left: 790, top: 800, width: 320, height: 160 };
const bowTop = H - BOW.height;
const bowLeft = 500;

const sceneOf = (trip: Trip): Scene => ({
  folder: 'HELMET_CAMERA',
  file: trip.file,
  width: W,
  height: H,
  fps: FPS,
  frames: trip.frames,
  codec: 'h264',
  camera: cameraOf(trip),
  hum: 130,
  light: 1,
  prepare() {
    const camera = cameraOf(trip);
    const plain = encoder(camera);
    const darken = cornerDarkener(camera, W, H);
    const plate = paintPlate(W + 2 * MARGIN, H, (x, y, out) => channel(trip, x - MARGIN, y, out), plain);
    // The bow is static in the picture, so its vignetting is constant.
    const darkened =
      (shade: (x: number, y: number, out: Vec3) => number | void) =>
      (x: number, y: number, out: Vec3): number | void => {
        const opacity = shade(x, y, out);
        const gain = cornerGain(camera, (x + bowLeft) / W, (y + bowTop) / H, W / H);
        for (let i = 0; i < 3; i += 1) out[i] *= gain;
        return opacity;
      };
    const bow = paintPlate(
      BOW.width,
      BOW.height,
      darkened((x, y, out) => {
        const u = (x + bowLeft - BOARD.left) / BOARD.width;
        const v = (y + bowTop - BOARD.top) / BOARD.height;
        if (trip.board && u >= 0 && u < 1 && v >= 0 && v < 1) {
          const patch = boardAt(u, v);
          for (let i = 0; i < 3; i += 1) out[i] = patch ? patch[i] : 0.02;
          return 1;
        }
        const half = 60 + 400 * Math.sqrt(y / BOW.height);
        const d = (x - BOW.width / 2) / half;
        const sheen = 0.75 + 0.35 * (1 - d * d) + 0.1 * hash(x >> 1, y >> 1, 9);
        const seam = Math.abs(d) < 0.015 ? 0.55 : 1;
        [out[0], out[1], out[2]] = [0.5 * sheen * seam, 0.27 * sheen * seam, 0.045 * sheen * seam];
        return smoothstep(1, 0.985, Math.abs(d));
      }),
      plain,
    );
    return (i, frame) => {
      const t = i / FPS;
      const sway = 34 * Math.sin(t * 1.1) + 12 * Math.sin(t * 2.7 + 1);
      const shift = (row: number): number => {
        const wave = row > HORIZON ? ((row - HORIZON) / 90) * Math.sin(row / (3 + (row - HORIZON) / 20) + t * 4) : 0;
        return MARGIN + sway + wave;
      };
      cutFrame(plate, frame, shift, Math.round(5 * Math.sin(t * 2.2)) * 2);
      darken(frame);
      layOver(bow, frame, bowLeft, bowTop);
    };
  },
  patches: () => (trip.board ? placesOn(BOARD.left, BOARD.top, BOARD.width, BOARD.height) : []),
});

export const helmet = sceneOf({
  file: 'paddle_out_07.mp4',
  frames: 360,
  kelvin: 9600,
  exposure: 1,
  along: 0,
  sky: 1.5,
  board: true,
});
/** Further along, slightly darker. */
export const paddleOut = sceneOf({
  file: 'paddle_out_08.mp4',
  frames: 180,
  kelvin: 8800,
  exposure: 0.8,
  along: 41,
  sky: 1.3,
  board: false,
});
/** On the way back, with the low sun: the same setting is now too yellow. */
export const paddleBack = sceneOf({
  file: 'paddle_back_11.mp4',
  frames: 180,
  kelvin: 4600,
  exposure: 0.6,
  along: 97,
  sky: 1.15,
  board: false,
});
