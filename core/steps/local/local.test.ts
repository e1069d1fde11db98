import { newStep } from '../../model/grade';
import { compile } from '../../program/compile';
import { evaluate } from '../../program/evaluate';
import { bakeFor, pictureToRgb } from '../../program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarPicture } from '../../program/cpu/planar';
import { fitInTable } from '../../formats/gradeLut';

const [WIDTH, HEIGHT] = [512, 288];
const [DARK, BRIGHT] = [0.3, 0.7];

/** A dark field beside a bright one, with a fine texture over both. `texture`: its amplitude. */
function picture(texture: number): PlanarPicture {
  const format = {
    ...{ width: WIDTH, height: HEIGHT, depth: 16 },
    ...({ chroma: '444', range: 'full', matrix: 'bt709', chromaSite: 'left' } as const),
  };
  const out = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  out.y.forEach((_, i) => {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    const level = x < WIDTH / 2 ? DARK : BRIGHT;
    out.y[i] = 65535 * (level + texture * Math.sin((2 * Math.PI * x) / 8) * Math.sin((2 * Math.PI * y) / 8));
  });
  out.cb.fill(32768);
  out.cr.fill(32768);
  return out;
}

/** Luma after the step, row by row. */
function after(of: PlanarPicture, amount: number): (x: number, y: number) => number {
  const program = compile([newStep('local', 'l', { amount })], 0);
  const rgb = pictureToRgb(bakeFor(program, of, 33), of);
  return (x, y) => rgb[3 * (y * WIDTH + x) + 1];
}

test('texture is lifted by the amount and laid low by it, its mean stays', () => {
  const of = picture(0.03);
  const swing = (read: ReturnType<typeof after>, x0: number): [swing: number, mean: number] => {
    const values: number[] = [];
    for (let y = 100; y < 180; y += 1) for (let x = x0; x < x0 + 80; x += 1) values.push(read(x, y));
    return [Math.max(...values) - Math.min(...values), values.reduce((a, b) => a + b) / values.length];
  };
  // In the middle of the range 1 − (2 · 0.3 − 1)⁴ = 0.974 of the amount acts.
  for (const [amount, factor] of [
    [1, 1.974],
    [-1, 0.026],
    [0.5, 1.487],
  ]) {
    const [size, mean] = swing(after(of, amount), 60);
    expect(size / 0.06).toBeCloseTo(factor, 1);
    expect(mean).toBeCloseTo(DARK, 3);
  }
});

test('an even picture stays, and an edge gets no halo that is seen', () => {
  const read = after(picture(0), 1);
  for (const x of [100, 200, 400]) expect(read(x, 140)).toBeCloseTo(x < WIDTH / 2 ? DARK : BRIGHT, 3);
  let most = 0;
  for (let x = 8; x < WIDTH - 8; x += 1)
    most = Math.max(most, Math.abs(read(x, 140) - (x < WIDTH / 2 ? DARK : BRIGHT)));
  console.log(`beside an edge of ${BRIGHT - DARK}: at most ${most.toFixed(4)} off`);
  // Without edge preservation it would be half of the edge.
  expect(most).toBeLessThan(0.1 * (BRIGHT - DARK));
});

test('a colour without its surroundings stays as it is; a table cannot hold the step', () => {
  const program = compile([newStep('local', 'l', { amount: 1 })], 0);
  const out = evaluate(program, [0.2, 0.4, 0.6], false, [0.2126 * 0.2 + 0.7152 * 0.4 + 0.0722 * 0.6]);
  [0.2, 0.4, 0.6].forEach((v, c) => expect(out[c]).toBeCloseTo(v, 9));
  expect(fitInTable([newStep('local', 'l', { amount: 1 })]).lost).toEqual(['Local contrast']);
});
