import { copyFileSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { make, TAGS_709, turn, workFolder, TAGS_HLG } from '../testClips';
import { decodeFrame } from '../frames/rest';
import { probe } from './probe';
import { rateOf } from './rates';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const SHORT = 'testsrc2=size=128x72:rate=25:duration=1';
const H264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'];

test('a plain clip: size, rate, depth, tags, sound, a time stamp for every frame', async () => {
  make(
    file('plain.mp4'),
    SHORT,
    [...H264, ...TAGS_709, '-c:a', 'aac', '-shortest'],
    ['-f', 'lavfi', '-i', 'sine=duration=1'],
  );
  const { facts, times } = await probe(file('plain.mp4'));
  expect(facts).toMatchObject({
    codec: 'h264',
    width: 128,
    height: 72,
    depth: 8,
    chroma: '420',
    range: 'limited',
    matrix: 'bt709',
    rotation: 0,
    frames: 25,
    variableRate: false,
    frameRate: { num: 25, den: 1 },
    audio: { codec: 'aac', channels: 1 },
  });
  expect(times).toHaveLength(25);
  expect(times[10]).toBeCloseTo(0.4, 5);
});

test('every sound track is known, one that nothing can decode is left out', async () => {
  const tones = [1, 2].flatMap((n) => ['-f', 'lavfi', '-i', `sine=frequency=${300 * n}:duration=1`]);
  const all = ['-map', '0:v', '-map', '1:a', '-map', '2:a', '-c:a', 'pcm_s16le'];
  make(file('tracks.mov'), SHORT, [...H264, ...all, '-ac:a:1', '2'], tones);
  const { facts } = await probe(file('tracks.mov'));
  const pcm = { codec: 'pcm_s16le', sampleRate: 44_100 };
  expect(facts).toMatchObject({
    soundTracks: 2,
    unreadSoundTracks: 0,
    audio: { ...pcm, channels: 1, index: 0 },
    otherAudio: [{ ...pcm, channels: 2, index: 1 }],
  });
  // The first track's sample description (ISO/IEC 14496-12) names an unknown codec.
  const bytes = readFileSync(file('tracks.mov'));
  bytes.write('zzzz', bytes.indexOf('sowt'), 'latin1');
  writeFileSync(file('unknown.mov'), bytes);
  expect((await probe(file('unknown.mov'))).facts).toMatchObject({
    soundTracks: 2,
    unreadSoundTracks: 1,
    audio: { ...pcm, channels: 2, index: 1 },
    otherAudio: [],
  });
});

test('what is transparent is left out', async () => {
  make(file('alpha.mov'), SHORT, ['-c:v', 'prores_ks', '-profile:v', '4444', '-pix_fmt', 'yuva444p10le']);
  const source = { path: file('alpha.mov'), ...(await probe(file('alpha.mov'))) };
  expect(source.facts).toMatchObject({ chroma: '444', depth: expect.any(Number), frames: 25 });
  expect((await decodeFrame(source, 3)).format).toMatchObject({ width: 128, height: 72, chroma: '444' });
});

test('a header that tells the rate of fields gives that of frames; pixels of a mad shape are taken for square', async () => {
  make(file('pixels.mp4'), SHORT, [...H264, '-vf', 'setsar=60/1']);
  expect((await probe(file('pixels.mp4'))).facts).toMatchObject({ width: 128, pixelAspect: { num: 1, den: 1 } });
  const stream = { r_frame_rate: '50/1', avg_frame_rate: '25/1' };
  expect(rateOf({ ...stream, field_order: 'tt' }, 25)).toEqual({ num: 25, den: 1 });
  expect(rateOf(stream, 50)).toEqual({ num: 50, den: 1 });
  expect(rateOf({ ...stream, field_order: 'tt' }, 50)).toEqual({ num: 50, den: 1 });
});

test('ten bits, wide tags, full range, odd sizes', async () => {
  make(file('ten.mkv'), 'testsrc2=size=130x74:rate=30:duration=0.5', [
    ...['-c:v', 'ffv1', '-pix_fmt', 'yuv422p10le', ...TAGS_HLG, '-color_range', 'pc'],
  ]);
  expect((await probe(file('ten.mkv'))).facts).toMatchObject({
    width: 130,
    height: 74,
    depth: 10,
    chroma: '422',
    range: 'full',
    matrix: 'bt2020',
    tags: { primaries: 'bt2020', transfer: 'arib-std-b67' },
  });
});

test('no matrix tag: BT.601 for small pictures, BT.709 from 720 lines on (common practice)', async () => {
  make(file('small.mp4'), SHORT, H264);
  make(file('hd.mp4'), 'testsrc2=size=1280x720:rate=25:duration=0.2', H264);
  expect((await probe(file('small.mp4'))).facts).toMatchObject({ matrix: 'bt601', tags: { matrix: null } });
  expect((await probe(file('hd.mp4'))).facts.matrix).toBe('bt709');
});

test('a rotated file is told in display orientation', async () => {
  make(file('up.mp4'), SHORT, H264);
  turn(file('up.mp4'), file('turned.mp4'));
  const { facts } = await probe(file('turned.mp4'));
  expect(facts).toMatchObject({ width: 72, height: 128 });
  expect([90, 270]).toContain(facts.rotation);
});

test('a variable frame rate is recognised and evened out', async () => {
  make(file('vfr.mkv'), SHORT, [...H264, '-vf', "select='not(eq(n,4)+eq(n,5)+eq(n,6))'", '-fps_mode', 'vfr']);
  const { facts, times } = await probe(file('vfr.mkv'));
  expect(facts.variableRate).toBe(true);
  expect(times).toHaveLength(22);
});

describe('broken files get a sentence a person understands', () => {
  const cases: [string, () => string, RegExp][] = [
    ['empty', () => (writeFileSync(file('empty.mp4'), ''), file('empty.mp4')), /The file is empty/],
    [
      'text named as video',
      () => (writeFileSync(file('text.mp4'), 'Dear diary, today we went out.\n'.repeat(50)), file('text.mp4')),
      /not a video file/,
    ],
    [
      'cut off before its index',
      () => {
        make(file('whole.mp4'), SHORT, H264);
        writeFileSync(file('cut.mp4'), readFileSync(file('whole.mp4')).subarray(0, 3000));
        return file('cut.mp4');
      },
      /cut off/,
    ],
    ['sound only', () => make(file('sound.m4a'), 'sine=duration=1', ['-c:a', 'aac']), /sound only/],
    [
      'a picture list that points elsewhere',
      () => (writeFileSync(file('list.m3u8'), '#EXTM3U\n#EXTINF:1,\nhttp://127.0.0.1:9/x.ts\n'), file('list.m3u8')),
      /not a video file|not opened|cut off|codec|no picture/i,
    ],
    ['RGB samples', () => make(file('rgb.mkv'), SHORT, ['-c:v', 'ffv1', '-pix_fmt', 'bgr0']), /not supported/],
  ];
  test.each(cases)('%s', async (_name, prepare, words) => {
    await expect(probe(prepare())).rejects.toThrow(words);
  });

  test('a file cut off in its middle is still read as far as it goes', async () => {
    make(file('long.mkv'), 'testsrc2=size=320x180:rate=25:duration=4', H264);
    copyFileSync(file('long.mkv'), file('half.mkv'));
    const whole = readFileSync(file('long.mkv'));
    writeFileSync(file('half.mkv'), whole.subarray(0, Math.floor(whole.length / 2)));
    const { facts } = await probe(file('half.mkv'));
    expect(facts.frames).toBeGreaterThan(10);
    expect(facts.frames).toBeLessThan(100);
  });
});

describe('files that ask for too much are refused, and soon', () => {
  const refused = async (name: string): Promise<string> => {
    const started = performance.now();
    const error = await probe(file(name)).then(
      () => new Error('It was taken.'),
      (e: Error) => e,
    );
    expect(performance.now() - started).toBeLessThan(20_000);
    return error.message;
  };

  test('one late time stamp in a small file', async () => {
    make(file('late.mkv'), 'testsrc2=size=64x64:rate=25:duration=0.4', [
      '-vf',
      "setpts='if(eq(N,9),900000*25*512,N*512)'",
      '-fps_mode',
      'passthrough',
      '-enc_time_base',
      '1:12800',
      ...H264,
    ]);
    expect(await refused('late.mkv')).toMatch(/hours long.*damaged/);
  });

  test('a gap of minutes between two frames', async () => {
    make(file('gap.mkv'), 'testsrc2=size=64x64:rate=25:duration=0.4', [
      '-vf',
      "setpts='if(gt(N,4),300*25+N,N)'",
      '-fps_mode',
      'passthrough',
      ...H264,
    ]);
    expect(await refused('gap.mkv')).toBe(
      'Frame 5 comes 300 seconds after the one before: the time stamps are damaged.',
    );
  });

  test('more streams than any camera writes', async () => {
    const maps = Array.from({ length: 40 }, () => ['-map', '0:v:0']).flat();
    make(file('streams.mkv'), 'testsrc2=size=64x64:rate=25:duration=0.2', [...maps, ...H264]);
    expect(await refused('streams.mkv')).toBe('This file holds 40 streams, more than 32.');
  });

  test('a picture larger than any camera’s', async () => {
    make(file('huge.mkv'), 'color=size=8190x8190:rate=1:duration=1', ['-c:v', 'ffv1', '-pix_fmt', 'yuv420p']);
    expect(await refused('huge.mkv')).toBe('The picture is larger than 8192 × 4608 pixels.');
  });

  test('a header that promises a hundred million samples', async () => {
    const bytes = readFileSync(file('plain.mp4'));
    const at = bytes.indexOf('stsz');
    bytes.writeUInt32BE(1, at + 8);
    bytes.writeUInt32BE(100_000_000, at + 12);
    writeFileSync(file('promises.mp4'), bytes);
    expect(await refused('promises.mp4')).not.toBe('It was taken.');
  });

  test('a file of many small frames is counted as it comes, within little memory', async () => {
    make(file('many.mkv'), 'color=size=16x16:rate=1000:duration=60', ['-c:v', 'ffv1', '-pix_fmt', 'yuv420p']);
    expect((await probe(file('many.mkv'))).facts.frames).toBe(60_000);
  });
});
