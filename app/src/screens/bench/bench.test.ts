import { colourText, neutralText } from './colourText';
import { diveInWords } from './diveText';
import { layoutBench } from './layout';
import { troubleAt } from './HoldBand';
import { clockText, timeText } from './timeText';

const HD = { width: 1920, height: 1080 };
const UPRIGHT = { width: 1080, height: 1920 };

test('on a phone the picture is as wide as the screen, and everything has room', () => {
  const { form, picture, scopeHeight } = layoutBench({ width: 390, height: 844 }, HD, 196);
  expect(form).toBe('tall');
  expect(picture).toEqual({ width: 390, height: 219 });
  expect(48 + picture.height + 44 + scopeHeight + 64 + 196 + 90).toBeLessThanOrEqual(844);
});

test('an upright clip leaves room for the trace', () => {
  const { picture, scopeHeight } = layoutBench({ width: 390, height: 844 }, UPRIGHT, 196);
  expect(picture.width).toBeLessThan(390);
  expect(scopeHeight).toBeGreaterThanOrEqual(96);
  expect(picture.height + scopeHeight).toBeLessThanOrEqual(844 - 48 - 44 - 64 - 196 - 90 + 1);
});

test('a wide screen gives the picture what is left over', () => {
  const { form, picture } = layoutBench({ width: 1280, height: 800 }, HD, 196);
  expect(form).toBe('wide');
  expect(picture.width / picture.height).toBeCloseTo(16 / 9, 1);
  expect(picture.width).toBeGreaterThan(700);
});

test('a tablet in landscape has no height left over between trace and scrub strip', () => {
  for (const window of [
    { width: 1024, height: 768 },
    { width: 1180, height: 820 },
    { width: 1366, height: 1024 },
  ]) {
    const { form, picture, scopeHeight, column } = layoutBench(window, HD, 196);
    expect([form, picture.width]).toEqual(['wide', column]);
    expect(48 + picture.height + 44 + scopeHeight + 90).toBe(window.height);
  }
});

test('a dive in words: date and time, or its start as the log wrote it', () => {
  const samples = [0, 420].map((seconds) => ({ seconds, metres: seconds / 42 }));
  const log = { name: 'dive.uddf', startedAt: '2031-06-14T09:18:00', samples };
  expect(diveInWords(log)).toBe('7:00 long, down to 10.0 m, 14 June 2031, 09:18');
  expect(diveInWords({ ...log, startedAt: 'Saturday morning' })).toMatch(/, Saturday morning$/);
  expect(diveInWords({ ...log, startedAt: '2031-14-06T09:18' })).toMatch(/, 2031-14-06T09:18$/);
  expect(diveInWords({ ...log, startedAt: null })).toBe('7:00 long, down to 10.0 m');
});

test('nothing lies outside of a window, however it is held', () => {
  const sizes = [390, 375, 360, 320, 430].flatMap((width) =>
    [844, 740, 664, 600, 568, 553].map((height) => ({ width, height })),
  );
  for (const clip of [HD, UPRIGHT])
    for (const needed of [96, 240, 336]) {
      for (const window of sizes) {
        const { form, picture, scopeHeight, tray, oneRow } = layoutBench(window, clip, needed);
        expect(form).toBe('tall');
        expect(tray).toBeLessThanOrEqual(needed);
        const all = 48 + picture.height + 44 + scopeHeight + 64 + tray + (oneRow ? 56 : 90);
        expect([window.height, all <= window.height]).toEqual([window.height, true]);
      }
      for (const window of [
        ...sizes.map(({ width, height }) => ({ width: height, height: width })),
        { width: 1100, height: 480 },
      ]) {
        const { form, picture, scopeHeight, column, tray } = layoutBench(window, clip, needed);
        expect(form).toBe('low');
        expect(48 + picture.height + 44 + scopeHeight).toBeLessThanOrEqual(window.height);
        expect(48 + 64 + tray + 56).toBeLessThanOrEqual(window.height);
        expect(column).toBeGreaterThanOrEqual(picture.width);
        expect(window.width - column).toBeGreaterThanOrEqual(240);
      }
    }
});

test('times count frames at the clip’s rate', () => {
  expect([timeText(0, 30), timeText(59, 60), timeText(3605, 60), timeText(47, 23.976)]).toEqual([
    '0:00.00',
    '0:00.59',
    '1:00.05',
    '0:01.23',
  ]);
});

test('a colour in numbers and in words', () => {
  expect(colourText([0.5, 1.2, -0.1])).toBe('128 255 0');
  expect(neutralText([0.5, 0.505, 0.5])).toBe('neutral within 1 %');
  expect(neutralText([0.4, 0.5, 0.3])).toBe('green 20 % above blue');
});

test('seconds of a dive as a clock', () => {
  expect([0, 75, 94.6, -3].map(clockText)).toEqual(['0:00', '1:15', '1:35', '−0:03']);
});

test('a tap on the strip finds the trouble that lies there, within the distance between measured frames', () => {
  const troubles = [
    { kind: 'grade', fromFrame: 30, toFrame: 60, worstFrame: 48, text: '' },
    { kind: 'cast', fromFrame: 50, toFrame: 90, worstFrame: 80, text: '' },
  ] as const;
  expect([20, 28, 55, 70, 99].map((f) => troubleAt(troubles, f, 5)?.worstFrame)).toEqual([
    undefined,
    48,
    48,
    80,
    undefined,
  ]);
});
