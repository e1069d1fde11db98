import { falloff } from '../steps/corners/falloff';
import { findCorners, type LightFrame } from './findCorners';

const [WIDTH, HEIGHT] = [240, 136];

/** A number 0–1 from two integers. */
function hash(x: number, y: number): number {
  let h = Math.imul(x, 374761393) + Math.imul(y, 668265263);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/** Light of a synthetic ground: patches of two sizes. */
function ground(x: number, y: number): number {
  const at = (size: number, weight: number): number => {
    const [u, v] = [x / size, y / size];
    const [i, j] = [Math.floor(u), Math.floor(v)];
    const s = (t: number): number => t * t * (3 - 2 * t);
    const [f, g] = [s(u - i), s(v - j)];
    const above = (1 - f) * hash(i, j) + f * hash(i + 1, j);
    const below = (1 - f) * hash(i, j + 1) + f * hash(i + 1, j + 1);
    return weight * ((1 - g) * above + g * below);
  };
  return 0.08 + at(23, 0.25) + at(7, 0.15);
}

/** Frames of a camera that moves this many pixels a frame over the ground, with a lens. */
function frames(speed: number, amount: number, begins: number, scene = ground): LightFrame[] {
  return Array.from({ length: 14 }, (_, k) => {
    const light = new Float32Array(WIDTH * HEIGHT);
    for (let y = 0; y < HEIGHT; y += 1)
      for (let x = 0; x < WIDTH; x += 1) {
        const m = ((x + 0.5 - WIDTH / 2) ** 2 + (y + 0.5 - HEIGHT / 2) ** 2) / ((WIDTH ** 2 + HEIGHT ** 2) / 4);
        // Exposure follows the scene, as in a camera; the picture has a little noise.
        const exposure = 1 + 0.15 * Math.sin(k / 4);
        const noise = 1 + 0.02 * (hash(x + 977 * k, y) - 0.5);
        light[y * WIDTH + x] =
          scene(x + speed * k, y + 0.4 * speed * k) * (1 - amount * falloff(m, begins)) * exposure * noise;
      }
    return { width: WIDTH, height: HEIGHT, light };
  });
}

test.each([
  [0.45, 1],
  [0.3, 0],
])('finds a loss of %d that begins at %d, from a camera that moves', (amount, begins) => {
  const found = findCorners([frames(5, amount, begins)]);
  expect(found.found).toBe(true);
  if (!found.found) return;
  expect(found.error).toBeLessThan(0.03);
  for (let m = 0; m <= 1; m += 0.1) {
    const left = (1 - amount * falloff(m, begins)) / (1 - found.amount * falloff(m, found.begins)) - 1;
    expect(Math.abs(left)).toBeLessThan(0.02);
  }
});

test('even light stays as it is', () => {
  expect(findCorners([frames(5, 0, 1)])).toMatchObject({ found: true, amount: 0 });
});

test('a camera that stands still tells nothing, nor does a picture without anything to follow', () => {
  expect(findCorners([frames(0, 0.45, 1)])).toEqual({ found: false, why: 'still' });
  expect(findCorners([frames(5, 0.45, 1, () => 0.3)])).toEqual({ found: false, why: 'few' });
  expect(findCorners([[]])).toEqual({ found: false, why: 'few' });
});
