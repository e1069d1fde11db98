import { traceVectorscope } from '@inkavo/core/scopes/vectorscope';
import { traceWaveform } from '@inkavo/core/scopes/trace';
import { ycbcrToRgb } from '@inkavo/core/colour/ycbcr';
import { alignedView, partOf } from './detail';
import { paintLuma, paintParade, paintVectorscope } from './paintTrace';

describe('painted traces', () => {
  const pixels = 64 * 36;
  const picture = (rgb: readonly number[]) => Float32Array.from({ length: pixels * 3 }, (_, i) => rgb[i % 3]);
  const drawn = (data: Uint8ClampedArray) => data.filter((v, i) => i % 4 === 3 && v > 0).length;

  test('one colour is one line of luma, and one line in each third of the channels', () => {
    const trace = traceWaveform(picture([0.2, 0.5, 0.8]), 64, 36, 64, 100);
    expect(drawn(paintLuma(trace).pixels)).toBe(64);
    const parade = paintParade(trace);
    expect([parade.columns, drawn(parade.pixels)]).toEqual([192, 192]);
    // Red is drawn in red: its line lies in the left third.
    const at = parade.pixels.findIndex((v, i) => i % 4 === 3 && v > 0 && ((i - 3) / 4) % 192 < 64) - 3;
    expect(parade.pixels[at]).toBeGreaterThan(parade.pixels[at + 2]);
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
