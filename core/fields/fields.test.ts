import fc from 'fast-check';
import { LUMA } from '../colour/ycbcr';
import reference from '../fixtures/opencv.json';
import { pictureBytes, planesOver, RowReader, type PlanarFormat } from '../program/cpu/planar';
import { boxMean, guidedCoefficients, maxFilter, minFilter } from './filters';
import { makeMap, mapRow, type FieldMap } from './map';
import { cellOf, downsample, smallFrom } from './smallPicture';
import { subsample } from './subsample';
import { darkChannel } from './transmission';
import { sampledCells } from './samples';
import { veilMap } from './veilMap';

const { width, height, radius, epsilon } = reference;
const [guide, plane] = [reference.guide, reference.plane].map((v) => Float32Array.from(v));
const most = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  Array.from(a).reduce((m, v, i) => Math.max(m, Math.abs(v - b[i])), 0);

// Source: OpenCV (ximgproc.guidedFilter, erode, dilate, boxFilter), see scripts/filterFixtures.py.
test('box, smallest and largest value filters are the reference library’s', () => {
  expect(most(boxMean(plane, width, height, radius), reference.mean9)).toBeLessThan(1e-5);
  expect(most(minFilter(plane, width, height, 3), reference.min7)).toBeLessThan(1e-6);
  expect(most(maxFilter(plane, width, height, 3), reference.max7)).toBeLessThan(1e-6);
});

test('the guided filter is the reference library’s, away from the edges, where windows are cut off differently', () => {
  const k = guidedCoefficients(guide, plane, width, height, radius, epsilon);
  const filtered = guide.map((g, i) => k[2 * i] * g + k[2 * i + 1]);
  let worst = 0;
  for (let y = 2 * radius; y < height - 2 * radius; y += 1)
    for (let x = 2 * radius; x < width - 2 * radius; x += 1)
      worst = Math.max(worst, Math.abs(filtered[y * width + x] - reference.guided[y * width + x]));
  expect(worst).toBeLessThan(1e-4);
});

test('filters of any size of picture and window: between the smallest and the largest, and exact by hand', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 5 }),
      (w, h, r) => {
        const values = Float32Array.from({ length: w * h }, (_, i) => ((i * 7919) % 31) / 31);
        const window = (x: number, y: number): number[] => {
          const out: number[] = [];
          for (let v = Math.max(0, y - r); v <= Math.min(h - 1, y + r); v += 1)
            for (let u = Math.max(0, x - r); u <= Math.min(w - 1, x + r); u += 1) out.push(values[v * w + u]);
          return out;
        };
        const [low, high, mean] = [minFilter(values, w, h, r), maxFilter(values, w, h, r), boxMean(values, w, h, r)];
        return Array.from(values).every((_, i) => {
          const all = window(i % w, Math.floor(i / w));
          return (
            low[i] === Math.min(...all) &&
            high[i] === Math.max(...all) &&
            Math.abs(mean[i] - all.reduce((a, b) => a + b) / all.length) < 1e-6
          );
        });
      },
    ),
  );
});

const format = (part: Partial<PlanarFormat>): PlanarFormat => ({
  width: 64,
  height: 36,
  depth: 8,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
  ...part,
});

test.each([
  ['4:2:0', format({})],
  ['4:2:2, 10 bit', format({ chroma: '422', depth: 10 })],
  ['4:4:4, 16 bit, odd size', format({ chroma: '444', depth: 16, width: 61, height: 35 })],
  ['large', format({ width: 1920, height: 64 })],
])('a picture averaged over cells has the mean of its pixels: %s', (_name, f) => {
  const picture = planesOver(new ArrayBuffer(pictureBytes(f)), f);
  const scale = 2 ** (f.depth - 8);
  picture.y.forEach((_, i) => (picture.y[i] = (16 + ((i * 37) % 200)) * scale));
  picture.cb.forEach((_, i) => (picture.cb[i] = (100 + ((i * 13) % 60)) * scale));
  picture.cr.forEach((_, i) => (picture.cr[i] = (100 + ((i * 29) % 60)) * scale));
  const small = downsample(picture);
  const row = new Float32Array(f.width * 3);
  const reader = new RowReader(picture);
  const sum = [0, 0, 0];
  for (let y = 0; y < f.height; y += 1) {
    reader.read(y, row);
    row.forEach((v, i) => (sum[i % 3] += v / (f.width * f.height)));
  }
  // Cells at the edges are smaller, and chroma between samples is repeated here, interpolated there.
  for (let c = 0; c < 3; c += 1) {
    const mean = small.code.reduce((s, v, i) => (i % 3 === c ? s + v : s), 0) / (small.width * small.height);
    expect(Math.abs(mean - sum[c])).toBeLessThan(0.02);
  }
  const cell = cellOf(f.width, f.height);
  expect(small.cells).toEqual([f.width / cell, f.height / cell]);
  expect([small.width, small.height]).toEqual([Math.ceil(f.width / cell), Math.ceil(f.height / cell)]);
  // Its cells alone carry all the information, for those that do not have the frame.
  const again = smallFrom(small.code, picture.format, LUMA[picture.format.matrix]);
  expect([again.width, again.height, again.cells]).toEqual([small.width, small.height, small.cells]);
  again.luma.forEach((v, i) => expect(v).toBeCloseTo(small.luma[i], 5));
  expect(() => smallFrom(small.code.subarray(3), picture.format, LUMA.bt709)).toThrow('cells');
});

test('a map is the same at every size of the picture', () => {
  const map: FieldMap = {
    width: 8,
    height: 5,
    cells: [7.5, 4.5],
    coefficients: Float32Array.from({ length: 80 }, (_, i) => (i % 2 ? 0.4 : 0.2) + 0.01 * Math.floor(i / 2)),
  };
  const at = (w: number, h: number, x: number, y: number): number => {
    const out = new Float32Array(w);
    mapRow(map, Math.floor(y * h), new Float32Array(w).fill(0.5), out, h);
    return out[Math.floor(x * w)];
  };
  for (const [x, y] of [
    [0.3, 0.4],
    [0.8, 0.9],
  ])
    expect(Math.abs(at(60, 36, x, y) - at(960, 576, x, y))).toBeLessThan(0.02);
});

test('the dark channel by hand: haze of a known thickness over black (Koschmieder 1924)', () => {
  // I = J t + A (1 − t) with A = 0.8: black behind t = 0.5 is recorded as 0.4.
  const picture = { width: 40, height: 20, rgb: new Float32Array(40 * 20 * 3).fill(0.4) };
  expect(darkChannel(picture, [0.8, 0.8, 0.8])[0]).toBeCloseTo(0.5, 6);
});

/**
 * A synthetic scene, dark to bright, behind a veil of 0.8 whose transmission depends on the height 0–1; linear light.
 */
function veiled(width: number, height: number, through: (y: number) => number): Float32Array {
  const rgb = new Float32Array(3 * width * height);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      const [u, v] = [x / width, y / height];
      const scene = 0.25 + 0.24 * Math.sin(47 * u) * Math.sin(31 * v);
      const t = through(v);
      for (let c = 0; c < 3; c += 1) rgb[3 * (y * width + x) + c] = scene * (1 - 0.2 * c) * t + 0.8 * (1 - t);
    }
  return rgb;
}

test('samples of a picture are the same whatever size it was read at', () => {
  const [small, large] = [192, 768].map((w) =>
    subsample(
      veiled(w, (w * 9) / 16, () => 1),
      w,
      (w * 9) / 16,
      64,
      36,
    ),
  );
  const off = small.reduce((s, v, i) => s + Math.abs(v - large[i]), 0) / small.length;
  // One of them samples the scene at points, the other averages it over cells.
  expect(off).toBeLessThan(0.02);
});

test('the veil is estimated denser where it is, and denser in a picture with more of it', () => {
  const depths = (through: (y: number) => number): Float32Array =>
    veilMap({ width: 192, height: 108, rgb: veiled(192, 108, through) }, [0.8, 0.8, 0.8]);
  const mean = (map: Float32Array, from: number, to: number): number => {
    const part = map.subarray(Math.round(from * 108) * 192, Math.round(to * 108) * 192);
    return part.reduce((s, v) => s + v, 0) / part.length;
  };
  const far = depths((y) => 0.25 + 0.65 * y);
  expect(mean(far, 0, 0.3)).toBeGreaterThan(mean(far, 0.7, 1) + 0.1);
  expect(
    mean(
      depths(() => 0.4),
      0,
      1,
    ),
  ).toBeGreaterThan(
    mean(
      depths(() => 0.9),
      0,
      1,
    ) + 0.1,
  );
});

test.each([
  [256, 144],
  [192, 108],
  [144, 256],
  [40, 23],
])('a veil map of %i × %i cells reads those that it says, and no others', (width, height) => {
  const rgb = veiled(width, height, (v) => 0.3 + 0.5 * v);
  const reads = sampledCells(width, height);
  const some = new Float32Array(rgb.length).fill(NaN);
  for (const i of reads) some.set(rgb.subarray(3 * i, 3 * i + 3), 3 * i);
  const air = [0.8, 0.8, 0.8] as const;
  expect(veilMap({ width, height, rgb: some }, air)).toEqual(veilMap({ width, height, rgb }, air));
  if (width > 64) expect(reads.length).toBeLessThan(0.75 * width * height);
});

test('on a still scene with noise the map of one frame is that of the next within 1 %', () => {
  const f = format({ width: 960, height: 540 });
  const frames = [1, 2].map((seed) => {
    const picture = planesOver(new ArrayBuffer(pictureBytes(f)), f);
    let state = seed * 99991;
    const noise = (): number => {
      let sum = 0;
      for (let k = 0; k < 4; k += 1) {
        state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
        sum += state / 2 ** 32 - 0.5;
      }
      return sum * 1.7;
    };
    for (let y = 0; y < f.height; y += 1)
      for (let x = 0; x < f.width; x += 1)
        picture.y[y * f.width + x] = Math.round(
          190 - 0.2 * y + 18 * Math.sin(x / 9) * Math.sin(y / 7) * (y / 540) + noise(),
        );
    picture.cb.fill(128);
    picture.cr.fill(128);
    return downsample(picture);
  });
  const air = 0.55;
  const maps = frames.map((small) =>
    makeMap(
      {
        estimate: (p) => veilMap(p, [air, air, air]),
        radius: 0.06,
        epsilon: 0.01,
      },
      small,
      { width: small.width, height: small.height, rgb: small.code.map((v) => v * v) as Float32Array },
    ),
  );
  const values = maps.map((m, k) =>
    frames[k].luma.map((l, i) => m.coefficients[2 * i] * l + m.coefficients[2 * i + 1]),
  );
  const change = values[0].reduce((s, v, i) => s + Math.abs(v - values[1][i]), 0) / values[0].length;
  const size = values[0].reduce((s, v) => s + Math.abs(v), 0) / values[0].length;
  console.log(`change of the map from frame to frame: ${((100 * change) / size).toFixed(3)} % of its mean`);
  expect(change / size).toBeLessThan(0.01);
});
