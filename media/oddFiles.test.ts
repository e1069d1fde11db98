import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import type { MediaFacts } from '@inkavo/core/model/facts';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { probe } from './codec';
import { exportClip } from './export/exportClip';
import { makeProxy } from './frames/makeProxy';
import { decodeFrame, restFrame } from './frames/rest';
import { make, sourceOf, turn, workFolder } from './testClips';

const folder = workFolder();
const file = (name: string): string => join(folder, name);

/** Columns of known R'G'B', and a last one that encodes the frame's number in its luma. */
const PATCHES = [
  [0.8, 0.2, 0.2],
  [0.2, 0.7, 0.3],
  [0.25, 0.3, 0.75],
  [0.5, 0.5, 0.5],
] as const;
const FRAMES = 12;
const RATE = 25;

/** Luma weights of red and blue: Rec. ITU-R BT.601, BT.709 and BT.2020. */
const WEIGHTS = { bt601: [0.299, 0.114], bt709: [0.2126, 0.0722], bt2020: [0.2627, 0.0593] } as const;

/** Code values of an R'G'B' colour by the Recommendations' equations. */
function codesOf([r, g, b]: readonly number[], matrix: keyof typeof WEIGHTS, full: boolean, depth: number): number[] {
  const [kr, kb] = WEIGHTS[matrix];
  const y = kr * r + (1 - kr - kb) * g + kb * b;
  const [cb, cr] = [(b - y) / (2 * (1 - kb)), (r - y) / (2 * (1 - kr))];
  const unit = 2 ** (depth - 8);
  const top = 2 ** depth - 1;
  const scaled = full
    ? [y * top, cb * top + 128 * unit, cr * top + 128 * unit]
    : [(16 + 219 * y) * unit, (128 + 224 * cb) * unit, (128 + 224 * cr) * unit];
  return scaled.map(Math.round);
}
const strip = (n: number, depth: number): number => (40 + 12 * n) * 2 ** (depth - 8);

interface Pattern {
  width?: number;
  height?: number;
  matrix?: keyof typeof WEIGHTS;
  full?: boolean;
  depth?: 8 | 10;
  sampling?: '420' | '422' | '444';
}

/** The codec program's source of the pattern, in its own code values. */
function pattern({ width = 400, height = 120, matrix = 'bt709', full, depth = 8, sampling = '420' }: Pattern): string {
  const column = `floor(X*5/W)`;
  const pick = (part: number, last: string): string =>
    PATCHES.reduceRight(
      (rest, colour, i) => `if(eq(${column},${i}),${codesOf(colour, matrix, full ?? false, depth)[part]},${rest})`,
      last,
    );
  const unit = 2 ** (depth - 8);
  const format = `yuv${sampling}p${depth === 10 ? '10le' : ''}`;
  const planes = `lum='${pick(0, `(40+12*N)*${unit}`)}':cb='${pick(1, `${128 * unit}`)}':cr='${pick(2, `${128 * unit}`)}'`;
  return `color=gray:size=${width}x${height}:rate=${RATE}:duration=${FRAMES / RATE},scale=${width}:${height},format=${format},geq=${planes}`;
}

const tags = (matrix: string, { range = 'tv', transfer = 'bt709', primaries = 'bt709' } = {}): string[] => [
  ...['-color_range', range, '-colorspace', matrix, '-color_primaries', primaries, '-color_trc', transfer],
];
const X264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '8', '-g', '6'];
const X265 = ['-c:v', 'libx265', '-preset', 'ultrafast', '-x265-params', 'log-level=error:crf=8'];
const hdr = (transfer: string): string[] => tags('bt2020nc', { transfer, primaries: 'bt2020' });

interface Case extends Pattern {
  made(): string;
  facts: Partial<MediaFacts>;
  turned?: boolean;
  /** The number encoded in the file's frame for frame n of the timeline. */
  number?: (n: number) => number;
}

const CASES: Record<string, Case> = {
  '4:2:2 at 10 bit': {
    ...{ sampling: '422', depth: 10 },
    made: () =>
      make(file('422.mov'), pattern({ sampling: '422', depth: 10 }), [
        ...X264,
        '-pix_fmt',
        'yuv422p10le',
        ...tags('bt709'),
      ]),
    facts: { chroma: '422', depth: 10 },
  },
  '4:4:4': {
    sampling: '444',
    made: () => make(file('444.mp4'), pattern({ sampling: '444' }), [...X264, '-pix_fmt', 'yuv444p', ...tags('bt709')]),
    facts: { chroma: '444' },
  },
  'full range': {
    full: true,
    made: () =>
      make(file('full.mp4'), pattern({ full: true }), [
        ...X264,
        '-pix_fmt',
        'yuv420p',
        ...tags('bt709', { range: 'pc' }),
      ]),
    facts: { range: 'full' },
  },
  HLG: {
    ...{ matrix: 'bt2020', depth: 10 },
    made: () =>
      make(file('hlg.mp4'), pattern({ matrix: 'bt2020', depth: 10 }), [
        ...X265,
        '-pix_fmt',
        'yuv420p10le',
        ...hdr('arib-std-b67'),
      ]),
    facts: { matrix: 'bt2020', depth: 10 },
  },
  PQ: {
    ...{ matrix: 'bt2020', depth: 10 },
    made: () =>
      make(file('pq.mp4'), pattern({ matrix: 'bt2020', depth: 10 }), [
        ...X265,
        '-pix_fmt',
        'yuv420p10le',
        ...hdr('smpte2084'),
      ]),
    facts: { matrix: 'bt2020', depth: 10 },
  },
  'standard definition, BT.601': {
    matrix: 'bt601',
    made: () =>
      make(file('sd.mp4'), pattern({ matrix: 'bt601' }), [...X264, '-pix_fmt', 'yuv420p', ...tags('smpte170m')]),
    facts: { matrix: 'bt601' },
  },
  'odd sizes': {
    ...{ width: 405, height: 121 },
    made: () =>
      make(file('odd.mkv'), pattern({ width: 405, height: 121 }), [
        '-c:v',
        'ffv1',
        '-pix_fmt',
        'yuv420p',
        ...tags('bt709'),
      ]),
    facts: { width: 405, height: 121 },
  },
  'pixels that are not square': {
    made: () =>
      make(file('wide.mp4'), pattern({}), [...X264, '-pix_fmt', 'yuv420p', '-vf', 'setsar=4/3', ...tags('bt709')]),
    facts: { width: 534, height: 120, pixelAspect: { num: 4, den: 3 } },
  },
  'pixels that are not square, rotated': {
    turned: true,
    made: () => {
      make(file('narrow.mp4'), pattern({}), [
        ...[...X264, '-pix_fmt', 'yuv420p', '-vf', 'setsar=10/11'],
        ...tags('bt709'),
      ]);
      turn(file('narrow.mp4'), file('narrow turned.mp4'));
      return file('narrow turned.mp4');
    },
    facts: { width: 120, height: 364, rotation: 270, pixelAspect: { num: 10, den: 11 } },
  },
  rotated: {
    turned: true,
    made: () => {
      make(file('up.mp4'), pattern({}), [...X264, '-pix_fmt', 'yuv420p', ...tags('bt709')]);
      turn(file('up.mp4'), file('turned.mp4'));
      return file('turned.mp4');
    },
    facts: { width: 120, height: 400, rotation: 270 },
  },
  'with sound, and another start': {
    made: () =>
      make(
        file('late.mkv'),
        pattern({}),
        [...X264, '-pix_fmt', 'yuv420p', ...tags('bt709'), '-c:a', 'aac', '-output_ts_offset', '3.2'],
        [...['-f', 'lavfi', '-i', `sine=duration=${FRAMES / RATE}`]],
      ),
    facts: {},
  },
  'sound that begins before the picture': {
    made: () =>
      make(
        file('early.mkv'),
        pattern({}),
        [...X264, '-pix_fmt', 'yuv420p', ...tags('bt709'), '-c:a', 'flac', '-map', '0:v', '-map', '1:a'],
        [...['-itsoffset', '-0.3', '-f', 'lavfi', '-i', `sine=duration=${FRAMES / RATE + 0.3}`]],
      ),
    facts: {},
  },
  'any characters in its name': {
    made: () =>
      make(file('Ünï \'cödé\' – 名 % #1 [x]: "y" \\ .mp4'), pattern({}), [
        ...X264,
        '-pix_fmt',
        'yuv420p',
        ...tags('bt709'),
      ]),
    facts: { audio: null },
  },
  'a variable frame rate': {
    made: () =>
      make(file('vfr.mkv'), pattern({}), [
        ...[...X264, '-pix_fmt', 'yuv420p', ...tags('bt709')],
        ...['-vf', "select='not(eq(n,5)+eq(n,6))'", '-fps_mode', 'vfr'],
      ]),
    facts: { variableRate: true },
    // Two frames were never recorded: the previous one is repeated until the next.
    number: (n) => (n === 5 || n === 6 ? 4 : n),
  },
};

const median = (values: ArrayLike<number>): number => Array.from(values).sort((a, b) => a - b)[values.length >> 1];

/** The centre of column i of five, as a position in a picture of this size in pixels. */
function placeOf(i: number, width: number, height: number, turned = false): number {
  const [along, across] = turned ? [height, width] : [width, height];
  const [a, b] = [Math.floor(((i + 0.5) * along) / 5), across >> 1];
  // A quarter turn anticlockwise moves the left side to the bottom.
  return turned ? (height - 1 - a) * width + b : b * width + a;
}

describe.each(Object.entries(CASES))('%s', (_name, { made, facts, turned, number = (n: number) => n, depth = 8 }) => {
  const path = made();

  test('its frames, its length and what it is', async () => {
    const { facts: found } = await probe(path);
    expect(found).toMatchObject({ frames: FRAMES, ...facts });
    expect(found.durationSeconds).toBeCloseTo(FRAMES / RATE, 3);
    expect(found.frameRate.num / found.frameRate.den).toBeCloseTo(RATE, 6);
  });

  test('colours on the screen are those that were written', async () => {
    const source = await sourceOf(path);
    const picture = await restFrame(source, 3, source.facts.width);
    const { width, height } = picture.format;
    const rgb = pictureToRgb(undefined, picture);
    const off = PATCHES.flatMap((colour, i) => {
      const at = placeOf(i, width, height, turned) * 3;
      // The quantisation at this depth, and the codec's error.
      return colour.map((v, c) => Math.abs(rgb[at + c] - v));
    });
    expect(Math.max(...off)).toBeLessThan(2.5 / 255);
  });

  test('every frame of an export is the right one, and the export is as long', async () => {
    const source = await sourceOf(path);
    const output = join(folder, `${Math.random().toString(36).slice(2)}.mkv`);
    const delivery = { codec: 'ffv1', quality: 18 } as const;
    await exportClip({ source, steps: [], delivery, inFrame: 0, outFrame: FRAMES - 1, output });
    const delivered = await sourceOf(output);
    expect(delivered.facts.frames).toBe(FRAMES);
    expect(delivered.facts.durationSeconds).toBeCloseTo(FRAMES / RATE, 3);
    const { width, height } = delivered.facts;
    for (let n = 0; n < FRAMES; n += 1) {
      const { y } = await decodeFrame(delivered, n);
      const at = placeOf(4, width, height, turned);
      const seen = median(y.subarray(at - 2, at + 3));
      expect(Math.abs(seen - strip(number(n), depth))).toBeLessThanOrEqual(2 * 2 ** (depth - 8));
    }
    // The same frame is shown at that number on the screen.
    const shown = await restFrame(source, 8, source.facts.width);
    const luma = shown.y[placeOf(4, shown.format.width, shown.format.height, turned)] / 2 ** (16 - depth);
    expect(Math.abs(luma - strip(number(8), depth))).toBeLessThanOrEqual(2 * 2 ** (depth - 8));
  });

  test('its proxy plays the same number of frames', async () => {
    const source = await sourceOf(path);
    const proxy = join(folder, `${Math.random().toString(36).slice(2)}.mp4`);
    await makeProxy(source, proxy);
    const count = execFileSync('ffprobe', [
      '-v',
      'error',
      '-count_packets',
      '-select_streams',
      'v:0',
      '-show_entries',
      'stream=nb_read_packets',
      '-of',
      'csv=p=0',
      proxy,
    ]);
    expect(Number.parseInt(count.toString(), 10)).toBe(FRAMES);
  });
});
