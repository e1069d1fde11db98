import { StripDrag } from './stripDrag';
import { parseTime, timeText } from './timeText';

const WIDTH = 330;
const at = (x: number, y = 20) => ({ x, y, width: WIDTH, height: 40 });

test('on the strip the place lies under the finger', () => {
  const drag = new StripDrag();
  drag.begin(at(33), 8663);
  expect(drag.move(at(99), 86_630)).toEqual({ frame: expect.closeTo(25_989, 6), finer: 1 });
  // Half outside the strip still counts as on it: a thumb is that wide.
  expect(drag.move(at(165, -20), 86_630).frame).toBeCloseTo(43_315, 6);
});

test('away from it the drag goes finer, to two pixels for a frame, in clips of any length', () => {
  for (const last of [359, 86_629, 400_000]) {
    const drag = new StripDrag();
    drag.begin(at(165), last / 2);
    drag.move(at(165, -300), last);
    const { frame, finer } = drag.move(at(185, -300), last);
    expect(frame - last / 2).toBeCloseTo(20 * Math.min(0.5, last / WIDTH), 6);
    expect(finer).toBeCloseTo(last / WIDTH / 0.5, 6);
  }
  expect(new StripDrag().move(at(0, -300), 150).finer).toBeNull();
  // The further away, the finer, continuously.
  const drag = new StripDrag();
  const finer = Array.from({ length: 300 }, (_, k) => drag.move(at(0, -k), 86_629).finer!);
  finer.slice(1).forEach((f, k) => expect(f / finer[k]).toBeGreaterThanOrEqual(1));
  finer.slice(1).forEach((f, k) => expect(f / finer[k]).toBeLessThan(1.05));
});

test('times are read as they are written', () => {
  for (const rate of [25, 30_000 / 1001, 60])
    for (const frame of [0, 1, 59, 1499, 47_739, 300_000]) expect(parseTime(timeText(frame, rate), rate)).toBe(frame);
  expect(parseTime('1:02:03.04', 25)).toBe((3600 + 123) * 25 + 4);
  expect(parseTime(' 90 ', 25)).toBe(2250);
  expect(parseTime('1:05,3', 50)).toBe(65 * 50 + 3);
  for (const wrong of ['', 'x', '1:75', '0:01.25', '-1', '1:2:3:4', '1.5.2']) expect(parseTime(wrong, 25)).toBeNull();
});
