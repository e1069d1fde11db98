import fc from 'fast-check';
import { clipBegins, depthAt, depthKeys, diveAround, diveLogSchema, sameDive, type DiveLog } from '../model/diveLog';
import { valueAt } from '../regions/keyframes';
import { readDives, type LengthUnit } from './diveLog';
import { FormatError } from './error';

const readDiveLog = (text: string, name: string, options: { unit?: LengthUnit } = {}): DiveLog =>
  readDives(text, name, options)[0];

const UDDF = `<?xml version="1.0"?>
<uddf version="3.2.1"><profiledata><repetitiongroup>
  <dive id="a"><informationbeforedive><datetime>2026-06-14T10:12:00</datetime></informationbeforedive>
  <samples>
    <waypoint><depth>0.4</depth><divetime>0</divetime><temperature>287.15</temperature></waypoint>
    <waypoint><divetime>5</divetime><alarm>ascent</alarm></waypoint>
    <waypoint><depth>6.0</depth><divetime>10</divetime></waypoint>
    <waypoint><depth>9</depth><divetime>20.5</divetime></waypoint>
  </samples></dive>
  <dive id="b"><samples><waypoint><depth>3</depth><divetime>0</divetime></waypoint></samples></dive>
</repetitiongroup></profiledata></uddf>`;

test('UDDF 3.2: metres, seconds and kelvin; waypoints without a depth are passed over', () => {
  const log = readDiveLog(UDDF, 'a.uddf');
  expect(log.startedAt).toBe('2026-06-14T10:12:00');
  expect(log.samples).toEqual([
    { seconds: 0, metres: 0.4, celsius: expect.closeTo(14, 6) },
    { seconds: 10, metres: 6 },
    { seconds: 20.5, metres: 9 },
  ]);
  expect(readDives(UDDF, 'a.uddf').map((d) => d.samples.length)).toEqual([3, 1]);
  expect(diveLogSchema.parse(log)).toEqual(log);
});

test.each([
  ['metres', 'Time (s),Depth (m),Temp (C)\n0,0,14\n10,5.5,13.5\n', {}, 5.5],
  ['feet in the head', 'time,depth ft\n0,0\n10,33\n', {}, 33 * 0.3048],
  ['feet by choice', 'time;depth\n0;0\n10;33,5\n', { unit: 'foot' as const }, 33.5 * 0.3048],
  ['clock times', 'some export\n\nelapsed time\tdepth [m]\n0:00\t0\n0:10\t7\n', {}, 7],
  ['minutes', 'time (min),depth (m)\n0,0\n0.16666667,4\n', {}, 4],
  ['quoted', '"time (s)","depth (m)"\r\n"0","1"\r\n"10","2"\r\n', {}, 2],
])('CSV: %s', (_name, text, options, metres) => {
  const { samples } = readDiveLog(text, 'log.csv', options);
  expect(samples).toHaveLength(2);
  expect(samples[1].seconds).toBeCloseTo(10, 4);
  expect(samples[1].metres).toBeCloseTo(metres, 6);
});

test('CSV of several dives: by their number, with the day and the time of day at which each began', () => {
  const text = [
    'dive number,date,time,sample time (min),sample depth (m),sample temperature (C)',
    ...['41,2031-06-13,9:05:00,0:00,0.2,15', '41,2031-06-13,9:05:00,0:20,4.5,14', '41,2031-06-13,9:05:00,1:00,8,13'],
    ...['42,2031-06-14,10:12,0:00,0.4,', '42,2031-06-14,10:12,0:30,12.5,'],
  ].join('\n');
  const dives = readDives(text, 'all.csv');
  expect(dives.map((d) => [d.startedAt, d.samples.map((s) => s.seconds)])).toEqual([
    ['2031-06-13T09:05:00', [0, 20, 60]],
    ['2031-06-14T10:12', [0, 30]],
  ]);
  expect(dives[0].samples[2]).toEqual({ seconds: 60, metres: 8, celsius: 13 });
  for (const dive of dives) expect(diveLogSchema.parse(dive)).toEqual(dive);
  // Only the second one contains the clip.
  expect(diveAround(dives, '2031-06-14T10:12:20')).toBe(dives[1]);
  expect(diveAround(dives, '2031-06-14T11:00:00')).toBeUndefined();
  expect(diveAround([...dives, dives[1]], '2031-06-14T10:12:20')).toBeUndefined();
  expect(diveAround(dives, null)).toBeUndefined();
  // A camera without a time zone writes its local time as UTC.
  const [, second] = dives;
  const zoned = { ...second, startedAt: '2031-06-14T10:12:00+10:00' };
  expect(clipBegins(zoned, '2031-06-14T00:12:20Z')).toBe(20);
  expect(clipBegins(zoned, '2031-06-14T10:12:20.000000Z')).toBe(20);
  expect(clipBegins(zoned, '2031-06-14T11:12:20Z')).toBeNull();
  expect(clipBegins({ ...second, startedAt: 'some day' }, '2031-06-14T11:12:20Z')).toBeNull();
});

test.each([
  ['no head line', '1,2\n3,4\n', /no line names a time and a depth/],
  ['no number', 'time,depth\n0,1\n5,x\n', /Line 3: "x" is not a depth/],
  ['no time', 'time,depth\n0,1\nsoon,2\n', /Line 3: "soon" is not a time/],
  ['time goes back', 'time,depth\n5,1\n4,2\n', /Line 3: the time goes back/],
  ['too deep', 'time,depth\n0,1\n4,900\n', /Line 3: a depth of 900 m cannot be/],
  ['no samples', 'time,depth\n', /no sample/],
  ['no dive', '<uddf/>', /no dive with samples/],
  ['another XML', '<gpx></gpx>', /not a UDDF file: it begins with "gpx"/],
  ['cut off', UDDF.slice(0, 400), /Line \d+: this is not valid XML/],
  ['a document type', '<!DOCTYPE a [<!ENTITY b "c">]><uddf/>', /document type is not taken/],
  ['depth no number', UDDF.replace('6.0', 'six'), /depth \(line \d+\): "six" is not a number/],
])('refused with a reason: %s', (_name, text, reason) => {
  expect(() => readDiveLog(text, 'x')).toThrow(FormatError);
  expect(() => readDiveLog(text, 'x')).toThrow(reason);
});

test('cut, changed and made-up files: a log or a reason, never half of one', () => {
  const texts = [UDDF, 'Time (s),Depth (m)\n0,0\n10,5.5\n20,8\n'];
  const damaged = fc
    .tuple(fc.constantFrom(...texts), fc.nat(800), fc.nat(800), fc.string({ maxLength: 8 }))
    .map(([text, from, length, put]) => text.slice(0, from) + put + text.slice(from + (length % 30)));
  fc.assert(
    fc.property(fc.oneof(damaged, fc.string({ maxLength: 300 })), (text) => {
      try {
        return diveLogSchema.safeParse(readDiveLog(text, 'x')).success;
      } catch (error) {
        return error instanceof FormatError;
      }
    }),
    { numRuns: 10_000 },
  );
});

test('keyframes of a depth are the log within 2 cm, with fewer keys than samples', () => {
  const log: DiveLog = {
    name: 'x',
    startedAt: null,
    samples: Array.from({ length: 200 }, (_, i) => ({
      seconds: 2 * i,
      metres: Math.min(12, i / 8) + (i > 150 ? 1 : 0),
    })),
  };
  for (const offset of [-5, 0, 60, 290.5]) {
    const keys = depthKeys({ log, offset }, 100);
    expect(keys.length).toBeLessThan(12);
    for (let t = 0; t <= 100; t += 0.7)
      expect(Math.abs(valueAt({ keys }, t) - depthAt(log, t + offset))).toBeLessThan(0.021);
  }
  expect(depthAt(log, -100)).toBe(0);
  expect(depthAt(log, 1e6)).toBe(13);
});

test('another clip of the dive begins where both clocks say; none outside of the log, or without a clock', () => {
  const log: DiveLog = {
    name: 'a',
    startedAt: null,
    samples: [
      { seconds: 0, metres: 1 },
      { seconds: 420, metres: 9 },
    ],
  };
  const other = (recordedAt: string | null, durationSeconds = 20) =>
    sameDive({ log, offset: 94.5 }, '2031-06-14T09:20:00Z', { recordedAt, durationSeconds })?.offset ?? null;
  expect(other('2031-06-14T09:22:30Z')).toBeCloseTo(244.5, 9);
  expect(other('2031-06-14T09:19:00Z')).toBeCloseTo(34.5, 9);
  for (const [at, seconds] of [
    ['2031-06-14T09:25:20Z', 20],
    ['2031-06-14T09:25:10Z', 40],
    ['2031-06-14T09:18:00Z', 20],
    [null, 20],
    ['soon', 20],
  ] as const)
    expect(other(at, seconds)).toBeNull();
  expect(sameDive({ log, offset: 0 }, null, { recordedAt: '2031-06-14T09:22:30Z', durationSeconds: 5 })).toBeNull();
});
