import { readCdl } from '@inkavo/core/formats/cdl';
import { readClf } from '@inkavo/core/formats/clf/read';
import { readCube } from '@inkavo/core/formats/cube';
import { readGrade } from '@inkavo/core/formats/json';
import { newStep } from '@inkavo/core/model/grade';
import { traceVectorscope } from '@inkavo/core/scopes/vectorscope';
import { traceWaveform } from '@inkavo/core/scopes/trace';
import { ycbcrToRgb } from '@inkavo/core/colour/ycbcr';
import { partOf } from './detail';
import { gradeFile } from './gradeFiles';
import { paintLuma, paintParade, paintVectorscope } from './paintTrace';

describe('grades as files', () => {
  const steps = [newStep('range', 'r', { black: -0.04 }), newStep('balance', 'b', { kelvin: 5000 })];
  test('each format holds the grade, and the name of the clip', () => {
    const text = (format: 'cube' | 'clf' | 'json') => gradeFile(steps, format, 17, 'ferry 3.mp4').text;
    expect(readCube(text('cube'))).toMatchObject({ size: 17, title: 'ferry 3.mp4' });
    expect(readClf(text('clf')).nodes).toHaveLength(2);
    expect(readGrade(text('json')).steps).toEqual(steps);
    expect(gradeFile(steps, 'clf', 17, 'ferry 3.mp4').fileName).toBe('ferry 3.clf');
  });
  test('a CDL names what it cannot hold', () => {
    const { text, lost } = gradeFile(steps, 'cc', 17, 'ferry');
    expect(lost).toEqual(['Balance']);
    expect(readCdl(text)[0].offset[0]).toBeCloseTo(-0.04, 6);
  });
  test('a grade that changes over the clip has no table', () => {
    const keyed = newStep('range', 'k', { black: { keys: [{ seconds: 0, value: 0.1 }] } });
    expect(() => gradeFile([keyed], 'cube', 17, 'x')).toThrow('changes over the clip');
  });
});

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
