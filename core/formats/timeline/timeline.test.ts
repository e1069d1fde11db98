import { NEUTRAL_CDL } from '../cdl';
import { FormatError } from '../error';
import { placesOf, type CutClip, type CutList } from './cutList';
import { writeEdl } from './edl';
import { readOtio, writeOtio } from './otio';
import { frameOf, isDropFrame, timecode } from './timecode';

const clip = (part: Partial<CutClip>): CutClip => ({
  ...{
    name: 'reef 1.mp4',
    path: 'media/reef 1.mp4',
    rate: { num: 30, den: 1 },
    frames: 300,
    ...{ start: 0, drop: false },
    inFrame: 30,
    outFrame: 119,
  },
  ...{ factor: 1, camera: 'Dive housing', cdl: { id: 'reef 1.mp4', ...NEUTRAL_CDL }, lost: [], luts: [], markers: [] },
  ...part,
});
const LIST: CutList = {
  name: 'Bay day – Ünïcode',
  rate: { num: 30, den: 1 },
  dissolve: 0.5,
  clips: [
    clip({ markers: [{ frame: 60, frames: 12, name: 'Shadows drift' }], lost: ['Water'], luts: ['Soft film'] }),
    clip({
      ...{ name: 'flight.mov', path: 'media/flight.mov', rate: { num: 60000, den: 1001 }, factor: 0.5, frames: 999 },
      cdl: { id: 'flight.mov', slope: [1.1, 1, 0.9], offset: [0.01, 0, -0.02], power: [1, 1.2, 1], saturation: 1.15 },
    }),
    clip({
      ...{ name: '100 % #3?.mp4', path: 'media/100 % #3?.mp4', inFrame: 0, outFrame: 29, start: 108_000 },
      cdl: { id: '100 % #3?.mp4', ...NEUTRAL_CDL },
    }),
  ],
};

describe('OpenTimelineIO', () => {
  test('what is written is read back as it was', () => expect(readOtio(writeOtio(LIST))).toEqual(LIST));
  test('every object has a schema with its version, where the format has one', () => {
    const schemas = [...writeOtio(LIST).matchAll(/"OTIO_SCHEMA": "(\w+\.\d+)"/g)].map((m) => m[1]);
    expect([...new Set(schemas)].sort()).toEqual([
      ...['Clip.1', 'ExternalReference.1', 'LinearTimeWarp.1', 'Marker.2', 'RationalTime.1', 'Stack.1'],
      ...['TimeRange.1', 'Timeline.1', 'Track.1', 'Transition.1'],
    ]);
  });
  test('clips fill the timeline without a gap, and transitions lie on the cuts', () => {
    const { tracks } = JSON.parse(writeOtio(LIST)) as { tracks: { children: { children: Record<string, never>[] }[] } };
    const items = tracks.children[0].children as unknown as {
      OTIO_SCHEMA: string;
      source_range: { start_time: { value: number }; duration: { value: number; rate: number } };
      in_offset: { value: number };
      out_offset: { value: number };
    }[];
    const clips = items.filter((c) => c.OTIO_SCHEMA === 'Clip.1');
    const seconds = clips.map((c) => c.source_range.duration.value / c.source_range.duration.rate);
    const places = placesOf(LIST);
    expect(seconds[0] * 30).toBeCloseTo(places[0].frames, 6);
    expect(seconds.reduce((a, b) => a + b) * 30).toBeCloseTo(places.at(-1)!.start + places.at(-1)!.frames, 6);
    const mixes = items.filter((c) => c.OTIO_SCHEMA === 'Transition.1');
    expect(mixes.map((t) => t.in_offset.value + t.out_offset.value)).toEqual([15, 15]);
    // At half speed, half of the dissolve's first part has passed when the clip begins on the timeline.
    expect(clips[1].source_range.start_time.value).toBeCloseTo(30 + (7 / 30) * (60000 / 1001) * 0.5, 6);
  });
  test('one of another program: no numbers of ours, a gap, an effect that is not known', () => {
    const text = JSON.stringify({
      OTIO_SCHEMA: 'Timeline.1',
      name: 'x',
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        children: [
          {
            OTIO_SCHEMA: 'Track.1',
            kind: 'Video',
            children: [
              { OTIO_SCHEMA: 'Gap.1' },
              {
                OTIO_SCHEMA: 'Clip.1',
                name: 'a',
                source_range: { start_time: { rate: 23.976, value: 10 }, duration: { rate: 23.976, value: 48 } },
                media_reference: { target_url: 'a%20b.mov' },
                effects: [{ OTIO_SCHEMA: 'Effect.1' }],
              },
            ],
          },
        ],
      },
    });
    expect(readOtio(text)).toMatchObject({
      dissolve: 0,
      clips: [{ path: 'a b.mov', rate: { num: 24000, den: 1001 }, inFrame: 10, outFrame: 57, factor: 1 }],
    });
  });
  test('clips of the second version: the active reference, ranges that count from a time code, files of this machine', () => {
    const time = (value: number, rate = 25) => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
    const span = (start: number, length: number, rate = 25) => ({
      OTIO_SCHEMA: 'TimeRange.1',
      start_time: time(start, rate),
      duration: time(length, rate),
    });
    const media = (url: string) => ({
      OTIO_SCHEMA: 'ExternalReference.1',
      target_url: url,
      available_range: span(90_000, 500),
    });
    const clipOfTwo = (from: number) => ({
      OTIO_SCHEMA: 'Clip.2',
      name: 'a',
      source_range: span(from, 50),
      media_references: { DEFAULT_MEDIA: media('file:///cards/one%20two.mov'), proxy: media('proxy.mov') },
      active_media_reference_key: 'DEFAULT_MEDIA',
      markers: [{ name: 'here', marked_range: span(90_110, 1) }],
    });
    const text = (from: number): string =>
      JSON.stringify({
        OTIO_SCHEMA: 'Timeline.1',
        name: 'x',
        tracks: { children: [{ kind: 'Video', children: [clipOfTwo(from)] }] },
      });
    const [read] = readOtio(text(90_100)).clips;
    expect(read).toMatchObject({ path: '/cards/one two.mov', start: 90_000, inFrame: 100, outFrame: 149, frames: 500 });
    expect(read.markers).toEqual([{ name: 'here', frame: 110, frames: 1 }]);
    expect(() => readOtio(text(89_000))).toThrow('begins before its recording');
  });
  test.each([
    ['no JSON', 'TITLE: x', /not JSON/],
    ['another schema', '{"OTIO_SCHEMA":"Clip.1"}', /The timeline/],
    ['no track', '{"OTIO_SCHEMA":"Timeline.1","name":"x","tracks":{"children":[]}}', /no video track/],
    [
      'a clip without a range',
      '{"OTIO_SCHEMA":"Timeline.1","name":"x","tracks":{"children":[{"kind":"Video","children":[{"OTIO_SCHEMA":"Clip.1","name":"a"}]}]}}',
      /Item 1: source_range/,
    ],
  ])('%s is refused with the place', (_what, text, words) => {
    expect(() => readOtio(text)).toThrow(FormatError);
    expect(() => readOtio(text)).toThrow(words);
  });
});

describe('CMX 3600', () => {
  test('time codes', () => {
    expect(timecode(0, 25)).toBe('00:00:00:00');
    expect(timecode(90_061 * 25 + 24, 25)).toBe('25:01:01:24');
  });
  // SMPTE ST 12-1: two numbers are dropped at each minute except every tenth, four at twice the rate.
  test.each([
    [30, 1799, '00:00:59;29'],
    [30, 1800, '00:01:00;02'],
    [30, 17_981, '00:09:59;29'],
    [30, 17_982, '00:10:00;00'],
    [30, 107_892, '01:00:00;00'],
    [60, 3600, '00:01:00;04'],
    [60, 215_784, '01:00:00;00'],
  ])('in drop-frame counting at %i: frame %i is %s, and back', (base, frame, text) => {
    expect(timecode(frame, base, true)).toBe(text);
    expect(frameOf(text, { num: base * 1000, den: 1001 })).toBe(frame);
    expect(isDropFrame(text)).toBe(true);
  });
  test('every frame of an hour has a time code of its own in drop-frame counting, and comes back', () => {
    const rate = { num: 30_000, den: 1001 };
    const wrong = Array.from({ length: 107_892 }, (_, f) => f).filter(
      (f) => frameOf(timecode(f, 30, true), rate) !== f,
    );
    expect(wrong).toEqual([]);
  });
  test.each(['', '1:2:3:4', '00:60:00:00', '00:00:00:25', 'aa:00:00:00'])('"%s" is no time code at 25', (text) => {
    expect(frameOf(text, { num: 25, den: 1 })).toBeNull();
  });
  test('sources count from the time code of their recording', () => {
    const own = clip({ start: 107_892, drop: true, rate: { num: 30_000, den: 1001 } });
    const text = writeEdl({ ...LIST, dissolve: 0, clips: [own] });
    expect(text).toMatch(/^001 {2}AX {7}V {5}C {8}01:00:01;00 01:00:04;00 01:00:00:00 01:00:03:00$/m);
  });
  test('straight cuts: sources and records are as long as each other, and records follow without a gap', () => {
    const text = writeEdl({ ...LIST, dissolve: 0 });
    const events = [...text.matchAll(/^(\d{3}) {2}AX {7}V {5}C {8}(\S+) (\S+) (\S+) (\S+)$/gm)];
    expect(events.map((e) => e[1])).toEqual(['001', '002', '003']);
    expect(events[0].slice(2)).toEqual(['00:00:01:00', '00:00:04:00', '01:00:00:00', '01:00:03:00']);
    expect(events[1][4]).toBe(events[0][5]);
    expect(events[2][4]).toBe(events[1][5]);
    expect(text).toContain('FCM: NON-DROP FRAME');
    expect(text).toMatch(/^M2 {3}AX {13}030\.0 {16}00:00:00:30$/m);
  });
  test('a dissolve: the event of both clips, its length in frames, records without a gap', () => {
    const lines = writeEdl(LIST).split('\n');
    const mix = lines.findIndex((l) => /V {5}D {4}015/.test(l));
    const times = (line: string): string[] => line.match(/\d\d:\d\d:\d\d:\d\d/g)!;
    expect(times(lines[mix - 1])[2]).toBe(times(lines[mix])[2]);
    const first = lines.find((l) => l.startsWith('001'))!;
    expect(times(first)[3]).toBe(times(lines[mix])[2]);
    // The outgoing clip continues where its own event ended, whatever the rate and speed of the incoming one.
    expect(times(lines[mix - 1])[0]).toBe(times(first)[1]);
    const last = lines.findLastIndex((l) => /V {5}D {4}/.test(l));
    expect(times(lines[last - 1])[0]).toBe(times(lines[mix])[1]);
  });
  test('more clips than it can count are refused', () =>
    expect(() => writeEdl({ ...LIST, clips: Array.from({ length: 1000 }, () => clip({})) })).toThrow(
      /holds 999 clips/,
    ));
  test('the CDL of each clip, and what it does not hold', () => {
    const text = writeEdl(LIST);
    expect(text).toContain('* ASC_SOP (1.1000 1.0000 0.9000)(0.0100 0.0000 -0.0200)(1.0000 1.2000 1.0000)');
    expect(text).toContain('* ASC_SAT 1.1500');
    expect(text).toContain('* NOT IN THE CDL: Water');
    expect(text).toContain('* LOC: 00:00:02:00 RED Shadows drift');
    // eslint-disable-next-line no-control-regex -- that is what is looked for
    expect(text).toMatch(/^[\x0a\x20-\x7e]*$/);
  });
});
