import type { Vec3 } from '../../colour/matrix';

/**
 * Wavelengths of the tables, nm. Enough for the three broad bands of a camera: attenuation changes slowly between them.
 */
export const WAVELENGTHS = [400, 425, 450, 475, 500, 525, 550, 575, 600, 625, 650, 675, 700] as const;

/**
 * Downwelling attenuation Kd per metre, by Jerlov's optical water types (Jerlov 1976, from memory): ocean I to III,
 * coast 1 to 9.
 */
const KD = {
  I: [0.028, 0.022, 0.019, 0.018, 0.027, 0.043, 0.063, 0.089, 0.235, 0.305, 0.36, 0.42, 0.53],
  IA: [0.038, 0.031, 0.026, 0.025, 0.032, 0.048, 0.067, 0.094, 0.24, 0.31, 0.37, 0.43, 0.54],
  IB: [0.051, 0.042, 0.036, 0.033, 0.042, 0.054, 0.072, 0.099, 0.245, 0.315, 0.375, 0.435, 0.545],
  II: [0.096, 0.081, 0.068, 0.062, 0.07, 0.076, 0.089, 0.115, 0.26, 0.335, 0.4, 0.465, 0.58],
  III: [0.185, 0.16, 0.135, 0.116, 0.115, 0.116, 0.12, 0.148, 0.295, 0.375, 0.445, 0.52, 0.65],
  C1: [0.51, 0.36, 0.25, 0.17, 0.14, 0.13, 0.12, 0.15, 0.3, 0.37, 0.45, 0.51, 0.65],
  C3: [0.78, 0.54, 0.39, 0.29, 0.22, 0.2, 0.19, 0.21, 0.33, 0.4, 0.46, 0.56, 0.71],
  C5: [1.1, 0.78, 0.56, 0.43, 0.36, 0.31, 0.3, 0.33, 0.4, 0.48, 0.54, 0.65, 0.8],
  C7: [1.6, 1.2, 0.89, 0.71, 0.58, 0.49, 0.46, 0.46, 0.48, 0.54, 0.63, 0.78, 0.92],
  C9: [2.4, 1.9, 1.6, 1.23, 0.99, 0.78, 0.63, 0.58, 0.6, 0.65, 0.76, 0.92, 1.1],
} as const;

export type WaterType = keyof typeof KD;
export const WATER_TYPES = Object.keys(KD) as WaterType[];

/** Downwelling attenuation of a type of water, per metre, at {@link WAVELENGTHS}. */
export const downwelling = (type: WaterType): readonly number[] => KD[type];

/**
 * A camera's three bands as Gaussians over wavelength (centre and deviation, nm; from memory, typical of silicon behind
 * colour filters), normalised so that daylight above water is white.
 */
const BANDS: readonly (readonly [number, number])[] = [
  [602, 36],
  [538, 40],
  [460, 30],
];
const sensitivity = BANDS.map(([middle, deviation]) => {
  const bell = WAVELENGTHS.map((w) => Math.exp(-0.5 * ((w - middle) / deviation) ** 2));
  const sum = bell.reduce((a, b) => a + b);
  return bell.map((v) => v / sum);
});

/**
 * Ratio of beam to diffuse attenuation: light is lost faster on its way to the camera than going down, since light
 * scattered forwards still goes down (common practice: about a fifth more).
 */
export const ACROSS = 1.2;

/**
 * Transmission of white light in each channel after this many metres down and across (Beer–Lambert per wavelength,
 * integrated over each channel's sensitivity, so effective coefficients change with depth, as Akkaynak and Treibitz
 * found they must). `density` scales all coefficients.
 */
export function lightLeft(type: WaterType, down: number, across: number, density = 1): Vec3 {
  const path = density * (down + ACROSS * across);
  const out: Vec3 = [0, 0, 0];
  for (let c = 0; c < 3; c += 1) {
    let sum = 0;
    for (let i = 0; i < WAVELENGTHS.length; i += 1) sum += sensitivity[c][i] * Math.exp(-KD[type][i] * path);
    out[c] = sum;
  }
  return out;
}

/**
 * Colour of open water at a depth, up to its brightness: downwelling daylight is scattered towards the camera equally
 * at all wavelengths and attenuated on its way, b · E(z) / (Kd + β) per wavelength.
 */
export function openWater(type: WaterType, down: number, density = 1): Vec3 {
  const out: Vec3 = [0, 0, 0];
  for (let c = 0; c < 3; c += 1) {
    let sum = 0;
    for (let i = 0; i < WAVELENGTHS.length; i += 1)
      sum += (sensitivity[c][i] * Math.exp(-KD[type][i] * density * down)) / (KD[type][i] * (1 + ACROSS));
    out[c] = sum;
  }
  return out;
}
