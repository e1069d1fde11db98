import type { Vec3 } from '@inkavo/core/colour/matrix';
import { fractal, mix, smoothstep } from '../noise';

/** Sky light at height h (0 horizon, 1 top) and width position u: blue, paler below, broken cloud. */
export function skyAt(u: number, h: number, out: Vec3, brightness = 1): void {
  const pale = Math.pow(1 - h, 3);
  const cloud = smoothstep(0.52, 0.78, fractal(u * 5 + 3, h * 9 + u, 6, 41)) * smoothstep(0.02, 0.3, h);
  const shade = 0.82 + 0.3 * fractal(u * 11, h * 21, 4, 77);
  const base: Vec3 = [mix(0.16, 0.6, pale), mix(0.32, 0.68, pale), mix(0.66, 0.8, pale)];
  const lit: Vec3 = [0.93 * shade, 0.93 * shade, 0.95 * shade];
  for (let i = 0; i < 3; i += 1) out[i] = brightness * mix(base[i], lit[i], cloud * 0.9);
}
