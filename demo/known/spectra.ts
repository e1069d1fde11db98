import type { Vec3 } from '@inkavo/core/colour/matrix';
import { downwelling, WAVELENGTHS, type WaterType } from '@inkavo/core/steps/water/waters';

/**
 * Light, surfaces and water by wavelength, finer than in the correction under test, and with a different camera: the
 * correction's assumptions must not have generated the picture.
 */
const STEP = 5;
const NM = Array.from({ length: 61 }, (_, i) => 400 + STEP * i);

const bell = (middle: number, deviation: number) => NM.map((w) => Math.exp(-0.5 * ((w - middle) / deviation) ** 2));
/** The made-up camera's channels, each normalised to 1 for white daylight. */
const CHANNELS = [bell(597, 33), bell(534, 43), bell(464, 27)].map((channel) => {
  const sum = channel.reduce((a, b) => a + b);
  return channel.map((v) => v / sum);
});

/** A surface's spectrum is a sum of three smooth bands that add up to 1: long, middle and short wavelengths. */
const rise = (w: number, at: number, wide: number): number => 1 / (1 + Math.exp(-(w - at) / wide));
const SURFACES = [
  NM.map((w) => rise(w, 582, 9)),
  NM.map((w) => rise(w, 494, 9) - rise(w, 582, 9)),
  NM.map((w) => 1 - rise(w, 494, 9)),
];

function between(values: readonly number[], w: number): number {
  const at = Math.min(WAVELENGTHS.length - 1.0001, (w - WAVELENGTHS[0]) / 25);
  const i = Math.floor(at);
  return values[i] + (at - i) * (values[i + 1] - values[i]);
}

/** Made-up water between two of Jerlov's types. */
export interface Water {
  types: readonly [WaterType, WaterType];
  /** Share of the second. */
  second: number;
  /** Horizontal attenuation: a multiple of the downwelling one, plus a constant per metre at 550 nm. */
  across?: readonly [share: number, scattered: number];
  /** Scattering towards the camera, per metre at 550 nm. */
  veil?: number;
}

/** Appearance of an object at a distance: channel = Σ surface[k] · parts[channel][k], plus veil. */
export interface Seen {
  parts: number[][];
  veil: Vec3;
}

/** The view over a distance (m), in water at a depth (m). */
export function inWater(
  { types, second, across: [share, scattered] = [0.85, 0.045], veil = 0.04 }: Water,
  depth: number,
  distance: number,
): Seen {
  const down = NM.map(
    (w) => between(downwelling(types[0]), w) * (1 - second) + between(downwelling(types[1]), w) * second,
  );
  // The horizontal path: absorption, most of the downwelling attenuation, and scattering, slightly more in the blue.
  const across = down.map((k, i) => share * k + scattered * (550 / NM[i]));
  const sum = (c: number, f: (i: number) => number): number =>
    CHANNELS[c].reduce((s, weight, i) => s + weight * f(i), 0);
  const light = (i: number): number => Math.exp(-down[i] * depth);
  const left = (i: number): number => Math.exp(-across[i] * distance);
  return {
    parts: [0, 1, 2].map((c) => SURFACES.map((surface) => sum(c, (i) => surface[i] * light(i) * left(i)))),
    veil: [0, 1, 2].map((c) =>
      sum(c, (i) => (veil * (550 / NM[i]) ** 0.5 * light(i) * (1 - left(i))) / (down[i] + across[i])),
    ) as Vec3,
  };
}

/** The same surfaces above water, in white daylight. */
export const inAir: Seen = {
  parts: [0, 1, 2].map((c) =>
    SURFACES.map((surface) => CHANNELS[c].reduce((s, weight, i) => s + weight * surface[i], 0)),
  ),
  veil: [0, 0, 0],
};

/** Light from a surface (long, middle, short) as seen. */
export function look({ parts, veil }: Seen, surface: Readonly<Vec3>): Vec3 {
  return parts.map((p, c) => p[0] * surface[0] + p[1] * surface[1] + p[2] * surface[2] + veil[c]) as Vec3;
}
