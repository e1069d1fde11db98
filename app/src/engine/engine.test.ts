import { traceVectorscope } from '@inkavo/core/scopes/vectorscope';
import { traceWaveform } from '@inkavo/core/scopes/trace';
import { ycbcrToRgb } from '@inkavo/core/colour/ycbcr';
import { alignedView, partOf } from './frames/detail';
import { besideEachOther, overEachOther, paintLuma, paintParade, paintVectorscope } from './worker/paintTrace';

describe('painted traces', () => {
  const pixels = 64 * 36;
  const picture = (rgb: readonly number[]) => Float32Array.from({ length: pixels * 3 }, (_, i) => rgb[i % 3]);
  const drawn = (data: Uint8ClampedArray) => data.filter((v, i) => i % 4 === 3 && v > 0).length;

  test('one colour is one line of luma, and one line in each third of the channels', () => {
    const trace = traceWaveform(picture([0.2, 0.5, 0.8]), 64, 36, 64, 100);
    expect(drawn(paintLuma(trace).pixels)).toBe(64);
    const parade = paintParade(trace);
    expect([parade.columns, drawn(parade.pixels)]).toEqual([192, 192]);
    // Red is drawn in red: its line is in the left third.
    const at = parade.pixels.findIndex((v, i) => i % 4 === 3 && v > 0 && ((i - 3) / 4) % 192 < 64) - 3;
    expect(parade.pixels[at]).toBeGreaterThan(parade.pixels[at + 2]);
  });

  test('two traces stand beside each other in every lane, whatever their sizes; over each other one is dimmed', () => {
    const traced = (rgb: readonly number[], columns: number, rows: number) =>
      traceWaveform(picture(rgb), 64, 36, columns, rows);
    const [low, high] = [paintLuma(traced([0.2, 0.2, 0.2], 64, 100)), paintLuma(traced([0.8, 0.8, 0.8], 32, 50))];
    const both = besideEachOther(low, high, 1);
    expect([both.columns, both.rows]).toEqual([32, 50]);
    // Rows of the drawn line by column; at half the height, the first column's line stays where it was.
    const rowsAt = (of: typeof low, x: number) =>
      Array.from({ length: of.rows }, (_, y) => y).filter((y) => of.pixels[4 * (y * of.columns + x) + 3] > 0);
    const [line] = rowsAt(low, 0);
    expect(rowsAt(both, 0)).toEqual([Math.floor(line / 2)]);
    expect(rowsAt(both, 15)).toEqual([Math.floor(line / 2)]);
    expect(rowsAt(both, 16)).toEqual(rowsAt(high, 0));
    expect(rowsAt(both, 31)).toEqual(rowsAt(high, 0));
    const [p, q] = [0.3, 0.6].map((v) => paintParade(traced([v, v, v], 30, 50)));
    const three = besideEachOther(p, q, 3);
    expect([0, 14, 15, 29, 30, 45, 89].map((x) => rowsAt(three, x))).toEqual(
      [p, p, q, q, p, q, q].map((of) => rowsAt(of, 0)),
    );
    const over = overEachOther(high, paintLuma(traced([0.2, 0.2, 0.2], 32, 50)));
    const [bright, dim] = [rowsAt(high, 0)[0], Math.floor(line / 2)];
    const red = (y: number): number => over.pixels[4 * y * over.columns];
    expect(red(bright)).toBe(high.pixels[4 * bright * high.columns]);
    expect(red(dim) / red(bright)).toBeCloseTo(0.5, 1);
  });

  test('the vectorscope is drawn in the hue of its place', () => {
    const size = 100;
    const blue = ycbcrToRgb([0.4, 0.3, -0.05], 'bt709');
    const { pixels: data } = paintVectorscope(traceVectorscope(picture(blue), size, 1), size, pixels);
    expect(drawn(data)).toBe(1);
    const at = data.findIndex((v, i) => i % 4 === 3 && v > 0) - 3;
    expect(data[at + 2]).toBeGreaterThan(data[at]);
    expect((at / 4) % size).toBeGreaterThan(size / 2);
  });
});

test('the part of a magnified view holds it with room around it, from even to even pixels, and never leaves the frame', () => {
  const file = { width: 3840, height: 2160 };
  expect(partOf({ x: 0.25, y: 0.5, width: 0.25, height: 0.25 }, file)).toEqual({
    x: 816,
    y: 998,
    width: 1250,
    height: 704,
  });
  for (const view of [
    { x: 0, y: 0.875, width: 0.125, height: 0.125 },
    { x: 0.5, y: 0.33, width: 0.5, height: 0.5 },
  ]) {
    const { x, y, width, height } = partOf(view, { width: 1001, height: 563 });
    expect([x, y, width, height].every((v) => v % 2 === 0)).toBe(true);
    expect(x + width).toBeLessThanOrEqual(1001);
    expect(y + height).toBeLessThanOrEqual(563);
    expect(x / 1001).toBeLessThanOrEqual(view.x);
  }
});

test('one pixel of the file for one of the screen: on whole pixels, also in a corner; another view stays', () => {
  const [file, screen] = [
    { width: 1920, height: 1080 },
    { width: 780, height: 439 },
  ];
  const size = 780 / 1920;
  for (const at of [0.296875, 0, 1 - size, 0.1234567]) {
    const { x, y, width, height } = alignedView({ x: at, y: at, width: size, height: size }, file, screen);
    expect([width * 1920, height * 1080]).toEqual([780, expect.closeTo(439, 9)]);
    for (const v of [x * 1920, y * 1080]) expect(Math.abs(v - Math.round(v))).toBeLessThan(1e-9);
    expect(Math.abs(x - at) * 1920).toBeLessThanOrEqual(0.5 + 1e-9);
    expect(y + height).toBeLessThanOrEqual(1 + 1e-9);
  }
  const other = { x: 0.2, y: 0.2, width: 0.25, height: 0.25 };
  expect(alignedView(other, file, screen)).toBe(other);
});
