import type { CardFile, FileHeader } from '../model/source';
import { countsOn, recordings } from './chapters';
import { cameraName, namedAsKnown, detectCameras } from './detectCameras';

const HEADER: FileHeader = {
  ...{ codec: 'hevc', width: 3840, height: 2160, rotation: 0, fps: 30, depth: 10, seconds: 60 },
  ...{ sound: 'aac', recordedAt: '2031-06-14T09:00:00Z', camera: null },
};
const at = (seconds: number): string => new Date(Date.UTC(2031, 5, 14, 9) + seconds * 1000).toISOString();

function file(path: string, header: Partial<FileHeader> | null = {}, bytes = 4e9): CardFile {
  const folders = path.split('/');
  const name = folders.pop()!;
  const problem = header ? null : 'The file is empty.';
  return {
    path,
    folders,
    folder: folders.at(-1) ?? '',
    name,
    bytes,
    header: header && { ...HEADER, ...header },
    problem,
  };
}
const names = (files: CardFile[][]): string[][] => files.map((c) => c.map((f) => f.name));

test.each([
  ['AB010042.MP4', 'AB020042.MP4', true],
  ['AB010042.MP4', 'AB030042.MP4', false],
  ['AB010042.MP4', 'AB010043.MP4', true],
  ['clip_0041_001.mov', 'clip_0041_002.mov', true],
  ['clip_0041_009.mov', 'clip_0041_010.mov', true],
  ['clip_0041_001.mov', 'clip_0042_002.mov', false],
  ['clip_2.mp4', 'clip_10.mp4', false],
  ['same.mp4', 'same.mp4', false],
])('%s, then %s: counts on is %s', (a, b, expected) => expect(countsOn(a, b)).toBe(expected));

describe('chapters of one recording', () => {
  const chapter = (n: number, part: Partial<FileHeader> = {}, bytes = 4e9): CardFile =>
    file(`DCIM/100ABCDE/AB0${n}0042.MP4`, { recordedAt: at((n - 1) * 60), ...part }, bytes);

  test('in order, however the card lists them; the last one is shorter', () => {
    const found = recordings([chapter(3, { seconds: 12 }, 8e8), chapter(1), chapter(2)]);
    expect(names(found)).toEqual([['AB010042.MP4', 'AB020042.MP4', 'AB030042.MP4']]);
  });
  test('also where each has the time at which the recording began', () => {
    expect(recordings([chapter(1, { recordedAt: at(0) }), chapter(2, { recordedAt: at(0) })])).toHaveLength(1);
  });
  test('also where each has the time at which it ended', () => {
    const found = recordings([
      chapter(1, { recordedAt: at(60) }),
      chapter(2, { recordedAt: at(75), seconds: 15 }, 1e9),
    ]);
    expect(found).toHaveLength(1);
  });
  test.each<[string, CardFile[]]>([
    ['a pause between them', [chapter(1), chapter(2, { recordedAt: at(70) })]],
    ['another size', [chapter(1), chapter(2, { width: 1920, height: 1080 })]],
    ['another rate', [chapter(1), chapter(2, { fps: 60 })]],
    ['the first is not full', [chapter(1, {}, 1e9), chapter(2)]],
    ['no times', [chapter(1, { recordedAt: null }), chapter(2, { recordedAt: null })]],
    ['a number is missing', [chapter(1), chapter(3)]],
    ['one cannot be opened', [chapter(1), file('DCIM/100ABCDE/AB020042.MP4', null)]],
    ['another folder', [chapter(1), file('DCIM/101ABCDE/AB020042.MP4', { recordedAt: at(60) })]],
  ])('not joined: %s', (_why, files) => expect(recordings(files)).toHaveLength(2));
});

describe('cameras on one card', () => {
  test('told apart by folder, tags and kind of file; every file comes back once', () => {
    const files = [
      file('DCIM/HELMET_CAMERA/ride_01.mp4'),
      file('DCIM/HELMET_CAMERA/swim_02.mp4', { fps: 120, width: 1920, height: 1080 }),
      file('DCIM/100FLYER/F_0001.mp4', { camera: 'Kestrel Two' }),
      file('DCIM/101FLYER/F_0002.mp4', { camera: 'Kestrel Two' }),
      file('DCIM/102MIXED/A0001.mp4'),
      file('DCIM/102MIXED/VID_7.mov', { codec: 'h264', depth: 8 }),
      file('loose.mkv', null),
    ];
    const detected = detectCameras(files);
    expect(detected.map((c) => [c.name, c.reason, c.recordings.length])).toEqual([
      ['Camera', 'by its kind of file', 2],
      ['Camera 2', 'by its kind of file', 1],
      ['Helmet camera', 'by its folder', 2],
      ['Kestrel Two', 'by its tags', 2],
    ]);
    const paths = detected.flatMap((c) => c.recordings.flatMap((r) => r.paths));
    expect(paths.sort()).toEqual(files.map((f) => f.path).sort());
    expect(detected[2].kind).toBe('action');
  });
  test('a file that cannot be opened is there, with its reason', () => {
    const [{ recordings: list }] = detectCameras([file('DCIM/BANK/a.mp4', null)]);
    expect(list[0]).toMatchObject({ problem: 'The file is empty.', seconds: null });
  });
  test.each([
    ['HELMET_CAMERA', 'Helmet camera'],
    ['dive-housing', 'Dive housing'],
    ['', 'Camera'],
  ])('the name of folder "%s" is %s', (folder, name) => expect(cameraName(folder)).toBe(name));
});

test('a camera that nothing names is the one whose clips are called alike; not where two are', () => {
  const detected = detectCameras([file('GX010042.mp4')]);
  const known = [
    { name: 'GX010040.mp4', camera: 'Helmet camera' },
    { name: 'DIVE_3.mp4', camera: 'Dive housing' },
  ];
  expect(namedAsKnown(detected, known)).toMatchObject([
    { name: 'Helmet camera', kind: 'action', reason: 'its clips are called alike' },
  ]);
  expect(namedAsKnown(detected, [...known, { name: 'GX1.mp4', camera: 'Other' }])[0].name).toBe('Camera');
  expect(namedAsKnown(detectCameras([file('2031.mp4')]), [{ name: '77.mp4', camera: 'Other' }])[0].name).toBe('Camera');
});
