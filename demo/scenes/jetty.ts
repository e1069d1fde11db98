import type { Vec3 } from '@inkavo/core/colour/matrix';
import { WHITES } from '@inkavo/core/colour/primaries';
import { STANDARD } from '@inkavo/core/model/profile';
import { encoder, type CameraModel } from '../camera';
import { fractal, hash, mix, smoothstep } from '../noise';
import { cutFrame, layOver, paintPlate } from '../plate';
import { skyAt } from './sky';
import type { Scene } from './types';

const W = 1920;
const H = 1080;
const FPS = 25;
const FRAMES = 125;
const SHORE = 520;
const MARGIN = 24;

/** A camera on a tripod, correctly set, with little noise. */
const camera: CameraModel = { profile: STANDARD, depth: 8, sees: WHITES.D65, noise: 0.5, corners: 0.1, exposure: 0.85 };

/** A jetty: a deck on posts that extends from the right, and a tide gauge on the nearest of them. */
const DECK = { top: 470, left: 620, thick: 46 };
const POSTS = [700, 1010, 1330, 1660];
const GAUGE = { left: 1296, width: 58, top: 300, bottom: 900 };

/** Light of the far side, the jetty and the gauge at a position in the picture; false over open water. */
function built(x: number, y: number, out: Vec3): boolean {
  if (x > GAUGE.left && x < GAUGE.left + GAUGE.width && y > GAUGE.top && y < GAUGE.bottom) {
    const row = (y - GAUGE.top) % 60;
    const tick = row < 30 && (x - GAUGE.left) % GAUGE.width < (row < 6 ? GAUGE.width : 26);
    const weed = smoothstep(640, 720, y + 30 * fractal(x / 9, y / 9, 3, 4));
    for (let i = 0; i < 3; i += 1) out[i] = mix(tick ? 0.06 : 0.78, [0.07, 0.11, 0.04][i], weed);
    return true;
  }
  if (y > DECK.top && y < DECK.top + DECK.thick && x > DECK.left) {
    const plank = hash(Math.floor((x - DECK.left) / 38), 1, 9);
    const wood = (0.6 + 0.35 * plank) * (0.8 + 0.3 * fractal(x / 4, y / 40, 3, 8));
    [out[0], out[1], out[2]] = [0.36 * wood, 0.31 * wood, 0.25 * wood];
    return true;
  }
  for (const post of POSTS) {
    const d = (x - post) / 26;
    if (Math.abs(d) > 1 || y < DECK.top || y > 880) continue;
    const round = 0.35 + 0.65 * Math.sqrt(1 - d * d) * (d < 0 ? 1 : 0.7);
    const wet = 1 - 0.55 * smoothstep(640, 700, y + 24 * fractal(x / 7, y / 11, 3, 5));
    const bark = (0.7 + 0.4 * fractal(x / 6, y / 50, 3, 14)) * round * wet;
    [out[0], out[1], out[2]] = [0.28 * bark, 0.22 * bark, 0.16 * bark];
    return true;
  }
  return false;
}

function far(x: number, y: number, out: Vec3): void {
  const treeline = 400 + 46 * fractal(x / 170, 2, 4, 15);
  skyAt(x / W, Math.max(0, (SHORE - 80 - y) / 440), out, 0.9);
  if (y > treeline) {
    const leaf = fractal(x / 18, y / 15, 5, 27);
    const lit = 0.45 + 0.8 * leaf - 0.2 * smoothstep(treeline, SHORE, y);
    [out[0], out[1], out[2]] = [0.11 * lit, 0.15 * lit, 0.06 * lit];
  }
}

function water(x: number, y: number, out: Vec3): void {
  const depth = (y - SHORE) / (H - SHORE);
  const wobble = 30 * (fractal(x / 80, y / (4 + 30 * depth), 3, 63) - 0.5) * (0.2 + depth);
  const mirrored = SHORE - (y - SHORE) * 0.9 + wobble * 0.5;
  if (!built(x + wobble, Math.max(0, 2 * SHORE - 180 - y), out)) far(x + wobble, Math.max(0, mirrored), out);
  const ripple = fractal(x / (24 + 110 * depth), y / (2.5 + 11 * depth), 4, 45);
  const own: Vec3 = [0.05, 0.085, 0.075];
  for (let i = 0; i < 3; i += 1) out[i] = mix(out[i] * 0.75, own[i], 0.35 + 0.3 * depth) * (0.7 + 0.6 * ripple);
}

export const jetty: Scene = {
  folder: 'JETTY_CAMERA',
  file: 'tide_gauge_04.mp4',
  width: W,
  height: H,
  fps: FPS,
  frames: FRAMES,
  codec: 'h264',
  camera,
  hum: 70,
  light: 1,
  prepare() {
    const encode = encoder(camera);
    const back = paintPlate(W + 2 * MARGIN, H, (x, y, out) => (y < SHORE ? far : water)(x - MARGIN, y, out), encode);
    const front = paintPlate(W - DECK.left, 700, (x, y, out) => (built(x + DECK.left, y + 280, out) ? 1 : 0), encode);
    return (i, frame) => {
      const t = i / FPS;
      const sway = (row: number): number =>
        row < SHORE ? 0 : (1 + 6 * ((row - SHORE) / (H - SHORE))) * Math.sin(row / (5 + (row - SHORE) / 30) - t * 2.6);
      cutFrame(back, frame, (row) => MARGIN + sway(row));
      layOver(front, frame, DECK.left, 280);
    };
  },
  patches: () => [],
};
