import type { Vec3 } from '@inkavo/core/colour/matrix';
import { decode709, encode709 } from '@inkavo/core/colour/transferTables';
import { guidedCoefficients } from '@inkavo/core/fields/filters';
import { darkChannel, OMEGA } from '@inkavo/core/fields/transmission';

/** Plain methods for comparison. Each takes and returns encoded R'G'B', width × height × 3. */
export type PlainMethod = (encoded: Float32Array, width: number, height: number) => Float32Array;

const inLight = (encoded: Float32Array, f: (linear: Float32Array) => Float32Array): Float32Array =>
  f(encoded.map(decode709) as Float32Array).map(encode709) as Float32Array;

const means = (values: Float32Array): Vec3 => {
  const sum: Vec3 = [0, 0, 0];
  for (let i = 0; i < values.length; i += 1) sum[i % 3] += values[i];
  return sum.map((s) => (3 * s) / values.length) as Vec3;
};

/** Grey world (Buchsbaum 1980): the picture averages to grey. */
function greyWorld(linear: Float32Array): Float32Array {
  const mean = means(linear);
  const grey = (mean[0] + mean[1] + mean[2]) / 3;
  return linear.map((v, i) => (v * grey) / Math.max(1e-4, mean[i % 3])) as Float32Array;
}

/** Shades of grey (Finlayson and Trezzi 2004), p = 6: highlights average to grey; the level is preserved. */
function shadesOfGrey(linear: Float32Array): Float32Array {
  const sum: Vec3 = [0, 0, 0];
  for (let i = 0; i < linear.length; i += 1) sum[i % 3] += Math.max(0, linear[i]) ** 6;
  const light = sum.map((s) => Math.max(1e-4, (3 * s) / linear.length) ** (1 / 6));
  const grey = (light[0] + light[1] + light[2]) / 3;
  return linear.map((v, i) => (v * grey) / light[i % 3]) as Float32Array;
}

/** Stretches each channel from its first and last percentile to black and white. */
const stretch: PlainMethod = (encoded) => {
  const ends = [0, 1, 2].map((c) => {
    const channel = Float32Array.from({ length: encoded.length / 3 }, (_, i) => encoded[3 * i + c]).sort();
    return [channel[Math.floor(0.01 * channel.length)], channel[Math.floor(0.99 * channel.length)]] as const;
  });
  return encoded.map((v, i) => {
    const [low, high] = ends[i % 3];
    return (v - low) / Math.max(1e-4, high - low);
  }) as Float32Array;
};

/** Red compensation from green (Ancuti et al. 2018, α = 1), then grey world. */
function compensated(linear: Float32Array): Float32Array {
  const [meanR, meanG] = means(linear);
  const out = linear.slice();
  for (let i = 0; i < out.length; i += 3) out[i] += (meanG - meanR) * (1 - out[i]) * out[i + 1];
  return greyWorld(out);
}

/** Dark channel prior with a guided filter (He, Sun, Tang 2009, 2010). */
const darkChannelPrior: PlainMethod = (encoded, width, height) => {
  const dark = darkChannel({ width, height, rgb: encoded }, [1, 1, 1]);
  // Airlight: the brightest of the thousandth with the largest dark channel.
  const order = Array.from(dark.keys()).sort((a, b) => dark[b] - dark[a]);
  const sum = (i: number) => encoded[3 * i] + encoded[3 * i + 1] + encoded[3 * i + 2];
  const brightest = order
    .slice(0, Math.max(1, Math.floor(dark.length / 1000)))
    .reduce((a, b) => (sum(a) > sum(b) ? a : b));
  const air = [0, 1, 2].map((c) => Math.max(0.05, encoded[3 * brightest + c])) as Vec3;
  const t = darkChannel({ width, height, rgb: encoded }, air).map((d) => 1 - OMEGA * d) as Float32Array;
  const luma = new Float32Array(t.length).map(
    (_, i) => 0.2126 * encoded[3 * i] + 0.7152 * encoded[3 * i + 1] + 0.0722 * encoded[3 * i + 2],
  );
  const k = guidedCoefficients(luma, t, width, height, Math.round(0.1 * width), 1e-3);
  return encoded.map((v, i) => {
    const p = Math.floor(i / 3);
    const through = Math.max(0.1, k[2 * p] * luma[p] + k[2 * p + 1]);
    return (v - air[i % 3]) / through + air[i % 3];
  }) as Float32Array;
};

export const PLAIN_METHODS: Record<string, PlainMethod> = {
  'grey world': (encoded) => inLight(encoded, greyWorld),
  'shades of grey': (encoded) => inLight(encoded, shadesOfGrey),
  'percentile stretch': stretch,
  'red compensation, grey world': (encoded) => inLight(encoded, compensated),
  'dark channel prior': darkChannelPrior,
};
