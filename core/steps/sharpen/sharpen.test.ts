import reference from '../../fixtures/opencv.json';
import { newStep } from '../../model/grade';
import { compile } from '../../program/compile';
import { evaluate } from '../../program/evaluate';
import { bakeFor, pictureToRgb } from '../../program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarPicture } from '../../program/cpu/planar';
import { tapsOf } from '../../program/stencil';
import { fitInTable } from '../../formats/gradeLut';
import { FRAME_WIDTH } from '../numbers';

/** A grey picture of luma 0–1. */
function grey(luma: ArrayLike<number>, width: number, height: number): PlanarPicture {
  const format = { ...{ width, height, depth: 16 }, ...({ chroma: '444', range: 'full', matrix: 'bt709' } as const) };
  const out = planesOver(new ArrayBuffer(pictureBytes({ ...format, chromaSite: 'left' })), {
    ...format,
    chromaSite: 'left',
  });
  out.y.set(Array.from(luma, (v) => Math.round(65535 * v)));
  out.cb.fill(32768);
  out.cr.fill(32768);
  return out;
}

/** Its green after the step; `deviation`: in the picture's own pixels. */
function sharpened(of: PlanarPicture, deviation: number, params: object): number[] {
  const { width } = of.format;
  // The radius is limited in the interface; for a picture this small the op is constructed by hand.
  const program = compile([newStep('sharpen', 's', { ...params })], 0);
  const ops = program.ops.map((op) => (op.kind === 'stencil' ? { ...op, spread: deviation / width } : op));
  const rgb = pictureToRgb(bakeFor({ ...program, ops }, of, 33), of);
  return Array.from({ length: rgb.length / 3 }, (_, i) => rgb[3 * i + 1]);
}

test('weights: as many as three standard deviations, together 1, nothing for what is too narrow', () => {
  expect([0.1, 0.5, 1, 2.5].map((d) => tapsOf(d).radius)).toEqual([0, 2, 3, 8]);
  for (const d of [0.1, 0.5, 2.5]) {
    const { weights } = tapsOf(d);
    expect(weights.reduce((s, w, i) => s + (i ? 2 * w : w), 0)).toBeCloseTo(1, 6);
  }
});

// Source: OpenCV (GaussianBlur with a replicated border, as sharpening adds it), see scripts/filterFixtures.py.
test.each(reference.sharpened.map((s) => [s.deviation, s] as const))(
  'a deviation of %s pixels: unsharp masking is the reference library’s, at the edges too',
  (deviation, { amount, out }) => {
    const { width, height, plane } = reference;
    const got = sharpened(grey(plane, width, height), deviation, { amount });
    const most = got.reduce((m, v, i) => Math.max(m, Math.abs(v - out[i])), 0);
    // 16 bits quantise the picture to 8e-6.
    expect(most).toBeLessThan(5e-5);
  },
);

test('differences up to the threshold stay, larger ones keep no more than goes beyond', () => {
  const [width, height] = [64, 16];
  const step = (size: number) =>
    grey(
      Array.from({ length: width * height }, (_, i) => (i % width < 32 ? 0.4 : 0.4 + size)),
      width,
      height,
    );
  const swing = (size: number, threshold: number): number => {
    const row = sharpened(step(size), 2, { amount: 1, threshold }).slice(width * 8, width * 9);
    return Math.max(...row) - (0.4 + size);
  };
  expect(swing(0.03, 0.02)).toBeCloseTo(0, 4);
  const [whole, less] = [swing(0.2, 0), swing(0.2, 0.02)];
  expect(whole).toBeGreaterThan(0.05);
  expect(whole - less).toBeCloseTo(0.02, 4);
});

test('a colour among its like stays; chroma is left alone; a table cannot hold it', () => {
  const program = compile([newStep('sharpen', 's', { amount: 2 })], 0);
  expect(evaluate(program, [0.2, 0.4, 0.6])).toEqual([0.2, 0.4, 0.6]);
  expect(fitInTable([newStep('sharpen', 's', { amount: 2 })]).lost).toEqual(['Sharpen']);
  expect(program.ops[0]).toMatchObject({ kind: 'stencil', spread: 1 / FRAME_WIDTH });
});
