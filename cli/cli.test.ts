import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { readCdl } from '@inkavo/core/formats/cdl';
import { readCube } from '@inkavo/core/formats/cube';
import { gradeToLut } from '@inkavo/core/formats/gradeLut';
import { writeGrade } from '@inkavo/core/formats/json';
import { gradeOf, newStep } from '@inkavo/core/model/grade';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { bake } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { frameSums, make, QUICK_H264, sourceOf, TAGS_709, workFolder } from '@inkavo/media/testClips';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const inkavo = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, [resolve(__dirname, 'bin/inkavo.cjs'), ...args], {
    encoding: 'utf8',
    cwd: resolve(__dirname, '..'),
  });
  return { status, stdout, stderr };
};
const steps = [newStep('range', 'r', { black: -0.05 }), newStep('saturation', 's', { amount: 1.5 })];

beforeAll(() => {
  make(file('clip.mp4'), 'testsrc2=size=320x180:rate=25:duration=1', QUICK_H264);
  writeFileSync(file('grade.json'), writeGrade(gradeOf(steps)));
  writeFileSync(file('none.json'), writeGrade(gradeOf([])));
});

test('read: lines for a person, JSON for a program', () => {
  expect(inkavo('read', file('clip.mp4')).stdout).toContain('h264, 320×180, 25 frames/s, 25 frames');
  expect(JSON.parse(inkavo('read', file('clip.mp4'), '--json').stdout)).toMatchObject({
    width: 320,
    frames: 25,
    matrix: 'bt709',
  });
});

test('grade: the file through a grade; without steps, the same frames', () => {
  const done = inkavo('grade', file('clip.mp4'), '--grade', file('none.json'), '-o', file('same.mkv'), '--json');
  expect(done.status).toBe(0);
  expect(JSON.parse(done.stdout)).toMatchObject({ frames: 25 });
  expect(frameSums(file('same.mkv'))).toEqual(frameSums(file('clip.mp4')));
  expect(
    inkavo('grade', file('clip.mp4'), '--grade', file('grade.json'), '-o', file('part.mp4'), '--in', '5', '--out', '9')
      .status,
  ).toBe(0);
  expect(frameSums(file('part.mp4'))).toHaveLength(5);
});

test('frame: 16 bits, the colours that the core computes', async () => {
  expect(
    inkavo('frame', file('clip.mp4'), '--at', '0.4s', '--grade', file('grade.json'), '-o', file('frame.png')).status,
  ).toBe(0);
  const source = await sourceOf(file('clip.mp4'));
  const expected = pictureToRgb(bake(tableOf(compile(steps, 0)), 65), await decodeFrame(source, 10));
  const raw = spawnSync(
    'ffmpeg',
    ['-loglevel', 'error', '-i', file('frame.png'), '-pix_fmt', 'rgb48le', '-f', 'rawvideo', '-'],
    { maxBuffer: 1 << 28 },
  ).stdout;
  expected.forEach((v, i) => {
    const got = raw.readUInt16LE(2 * i);
    if (got !== Math.round(Math.min(1, Math.max(0, v)) * 65535)) throw new Error(`sample ${i} is ${got}`);
  });
});

test('lut: the grade as a table that the media library applies as the core does; as a CDL, what is lost is said', () => {
  expect(inkavo('lut', '--grade', file('grade.json'), '-o', file('grade.cube'), '--size', '33').status).toBe(0);
  const { data, size } = readCube(readFileSync(file('grade.cube'), 'utf8'));
  const exact = gradeToLut(steps, 33, '');
  expect(size).toBe(33);
  data.forEach((v, i) => expect(Math.abs(v - exact.data[i])).toBeLessThan(1e-6));
  const cdl = inkavo('lut', '--grade', file('grade.json'), '-o', file('grade.cc'));
  expect(cdl.stdout).toContain('The CDL is the whole grade.');
  expect(readCdl(readFileSync(file('grade.cc'), 'utf8'))[0]).toMatchObject({ saturation: 1.5 });
});

test.each([
  [['dance'], 'no command "dance"'],
  [['read'], 'One file is needed'],
  [['read', 'nowhere.mp4'], 'no file "nowhere.mp4"'],
  [['grade', 'CLIP', '-o', 'x.mp4'], '--grade FILE is needed'],
  [['grade', 'CLIP', '--grade', 'GRADE', '-o', 'x.mp4', '--codec', 'tape'], 'one of h264'],
  [['grade', 'CLIP', '--grade', 'GRADE', '-o', 'x.mov', '--codec', 'h264'], 'goes into a .mp4 file'],
  [['grade', 'CLIP', '--grade', 'CLIP', '-o', 'x.mp4'], 'not valid JSON'],
  [['lut', '--grade', 'GRADE', '-o', 'x.cube', '--size', '40'], '--size is one of 17, 33, 65'],
  [['frame', 'CLIP', '--at', '99', '-o', 'x.png'], 'last frame is 24'],
  [['frame', 'CLIP', '--glow', '-o', 'x.png'], 'glow'],
])('a bad call %#: exit status 2 and a sentence', (args, words) => {
  const real = args.map((a) => a.replace('CLIP', file('clip.mp4')).replace('GRADE', file('grade.json')));
  const { status, stderr } = inkavo(...real);
  expect(status).toBe(2);
  expect(stderr).toContain(words);
});

test('work that fails: exit status 1; a file that is there is left alone', () => {
  writeFileSync(file('bad.mp4'), 'no video');
  expect(inkavo('read', file('bad.mp4')).status).toBe(1);
  writeFileSync(file('kept.mp4'), 'mine');
  expect(inkavo('grade', file('clip.mp4'), '--grade', file('grade.json'), '-o', file('kept.mp4')).status).toBe(2);
  expect(readFileSync(file('kept.mp4'), 'utf8')).toBe('mine');
  expect(existsSync(file('x.mp4'))).toBe(false);
});

test('lut: a CLF holds the grade; a grade with a table of its own goes through the same commands', () => {
  expect(inkavo('lut', '--grade', file('grade.json'), '--size', '17', '-o', file('grade.clf')).status).toBe(0);
  const text = readFileSync(file('grade.clf'), 'utf8');
  provideLut('own', text);
  writeFileSync(file('table.json'), writeGrade(gradeOf([newStep('lut', 'l', { lut: 'own', title: 'Own' })])));
  for (const grade of ['grade', 'table'])
    expect(
      inkavo('grade', file('clip.mp4'), '--grade', file(`${grade}.json`), '-o', file(`by-${grade}.mkv`)).status,
    ).toBe(0);
  const [a, b] = ['by-grade.mkv', 'by-table.mkv'].map((name) => firstFrame(file(name)));
  let apart = 0;
  a.forEach((v, i) => (apart = Math.max(apart, Math.abs(v - b[i]))));
  expect(apart).toBeLessThanOrEqual(3);
  expect(inkavo('grade', file('clip.mp4'), '--grade', file('grade.clf'), '-o', file('x.mkv')).stderr).toContain(
    'is not valid JSON',
  );
});

/** Samples of a file's first frame. */
const firstFrame = (path: string): Buffer =>
  execFileSync('ffmpeg', ['-loglevel', 'error', '-i', path, '-frames:v', '1', '-f', 'rawvideo', '-'], {
    maxBuffer: 1 << 26,
  });

test('match: a grade that brings a clip to the colours of another one', () => {
  const made = (name: string, filter: string): string =>
    make(file(name), 'mandelbrot=size=320x180:rate=25:end_pts=300', [
      ...['-t', '2', '-vf', `${filter},format=yuv420p`, '-c:v', 'libx264', '-qp', '12', ...TAGS_709],
    ]);
  made('left.mp4', 'null');
  made('right.mp4', 'eq=contrast=0.8:saturation=0.75:brightness=-0.05,colorchannelmixer=bb=0.85');
  const call = ['match', file('right.mp4'), '--to', file('left.mp4')];
  const done = inkavo(...call, '-o', file('like.json'));
  expect([done.status, done.stdout]).toEqual([0, expect.stringContaining('Matched.') as unknown]);
  const { steps } = JSON.parse(inkavo(...call, '--json').stdout) as { steps: { kind: string }[] };
  expect(steps.map((s) => s.kind)).toContain('channels');
  // With that grade nothing is left to correct, and a reference is required.
  expect(inkavo(...call, '--grade', file('like.json')).stdout).toContain('no step is needed');
  expect(inkavo(...call, '-o', file('like.json')).stderr).toContain('there already');
  expect(inkavo('match', file('right.mp4')).status).toBe(2);
});

test('first-pass with a dive log: the water at its depths; where clocks do not tell, the beginning is asked for', () => {
  const mixed = 'colorchannelmixer=rr=0.1:rg=0.05:gg=0.6:gb=0.1:bb=0.5';
  make(file('wet.mp4'), 'mandelbrot=size=320x180:rate=25', [
    ...['-t', '2', '-vf', `${mixed},eq=brightness=0.1,format=yuv420p`, '-c:v', 'libx264', '-qp', '12', ...TAGS_709],
  ]);
  writeFileSync(file('dive.csv'), 'time (s),depth (m)\n0,0\n10,7\n90,7\n');
  const call = ['first-pass', file('wet.mp4'), '--dive', file('dive.csv')];
  const asked = inkavo(...call);
  expect([asked.status, asked.stderr]).toEqual([2, expect.stringContaining('--dive-offset') as unknown]);
  expect(inkavo('first-pass', file('wet.mp4'), '--dive-offset', '20').stderr).toContain('go with --dive');
  expect(inkavo('first-pass', file('wet.mp4'), '--dive', file('none.csv')).stderr).toContain('none.csv');
  writeFileSync(file('dives.csv'), 'dive,time (s),depth (m)\n1,0,0\n1,50,30\n2,0,0\n2,10,7\n2,90,7\n');
  const several = ['first-pass', file('wet.mp4'), '--dive', file('dives.csv'), '--dive-offset', '20'];
  expect(inkavo(...several).stderr).toContain('There are 2 dives in this file');
  expect(inkavo(...several, '--dive-number', '3').stderr).toContain('one of 1 to 2');
  const second = inkavo(...several, '--dive-number', '2', '--json').stdout;
  expect(second).toBe(inkavo(...call, '--dive-offset', '20', '--json').stdout);
  const { setting, proposals } = JSON.parse(second) as {
    setting: string;
    proposals: { step: { kind: string; params: { depth: number | { keys: { value: number }[] } } } }[];
  };
  const depth = proposals.find((p) => p.step.kind === 'water')!.step.params.depth;
  expect(setting).toBe('water');
  expect(typeof depth === 'number' ? [depth] : depth.keys.map((k) => k.value)).toEqual(
    expect.arrayContaining([7]) as unknown,
  );
});

test('first-pass: reasons on the screen, a grade in the file; check: whether it holds', () => {
  // Flat: nothing darker than a quarter, nothing brighter than two thirds.
  make(file('flat.mp4'), 'testsrc2=size=320x180:rate=25:duration=2', [
    '-vf',
    'format=yuv420p,lutyuv=y=70+val*0.35:u=128+(val-128)*0.04:v=128+(val-128)*0.04,noise=alls=4',
    '-c:v',
    'libx264',
    '-qp',
    '12',
    ...TAGS_709,
  ]);
  const done = inkavo('first-pass', file('flat.mp4'), '-o', file('first.json'));
  expect(done.status).toBe(0);
  expect(done.stdout).toMatch(/^convert: .*\d/m);
  const found = JSON.parse(inkavo('first-pass', file('flat.mp4'), '--json').stdout) as {
    proposals: { step: { kind: string }; reason: string }[];
  };
  expect(found.proposals.map((p) => p.step.kind)).toContain('convert');

  // Clearly visible noise is reported, and left to the user.
  make(file('grainy.mp4'), 'testsrc2=size=320x180:rate=25:duration=1', [
    ...['-vf', 'format=yuv420p,noise=alls=30:allf=t', '-c:v', 'libx264', '-qp', '12', ...TAGS_709],
  ]);
  const grainy = inkavo('first-pass', file('grainy.mp4'), '-o', file('grainy.json'));
  expect(grainy.stdout).toMatch(/^noise \(not taken\): Noise of \d+\.\d of 255 in the light/m);
  expect(readFileSync(file('grainy.json'), 'utf8')).not.toContain('"noise"');
  expect(inkavo('first-pass', file('flat.mp4'), '-o', file('first.json')).status).toBe(2);
  expect(inkavo('first-pass', file('flat.mp4'), '--camera', 'toaster').stderr).toContain('--camera is one of');

  const held = inkavo('check', file('flat.mp4'), '--grade', file('first.json'), '--json');
  expect(held.status).toBe(0);
  expect(held.stderr).toMatch(/of \d+ frames/);
  const report = JSON.parse(held.stdout) as { moments: { black: number; white: number }[] };
  expect(report.moments.length).toBeGreaterThan(20);
  for (const m of report.moments) {
    expect(m.black).toBeGreaterThan(0);
    expect(m.white).toBeLessThan(1);
  }
  const lost = [newStep('range', 'r', { exposure: 3 })];
  writeFileSync(file('lost.json'), writeGrade(gradeOf(lost)));
  expect(inkavo('check', file('flat.mp4'), '--grade', file('lost.json')).stdout).toMatch(
    /frames \d+–\d+, worst \d+: \d+\.\d % of the frame is lost by the grade/,
  );
});

describe('several files', () => {
  test('timeline, and the film that is made from it', () => {
    make(file('media-b.mp4'), 'testsrc=size=320x180:rate=25:duration=1', QUICK_H264);
    const folders = { media: join(folder, 'media') };
    execFileSync('mkdir', ['-p', folders.media]);
    execFileSync('cp', [file('clip.mp4'), file('media-b.mp4'), folders.media]);
    const files = ['clip.mp4', 'media-b.mp4'].map((name) => join(folders.media, name));
    expect(inkavo('timeline', ...files, '-o', file('cut.otio'), '--dissolve', '0.4').status).toBe(0);
    const made = inkavo('film', file('cut.otio'), '-o', file('film.mkv'), '--json');
    expect(JSON.parse(made.stdout)).toMatchObject({ frames: 40 });
    expect(frameSums(file('film.mkv')).slice(0, 15)).toHaveLength(15);
    expect(inkavo('timeline', ...files, '-o', file('cut.edl')).status).toBe(0);
    expect(readFileSync(file('cut.edl'), 'utf8')).toContain('* ASC_SOP');
  });

  test('report: the grade in words; an ending that is none is refused', () => {
    expect(inkavo('report', file('clip.mp4'), '-o', file('r.html'), '--grade', file('grade.json')).status).toBe(0);
    expect(readFileSync(file('r.html'), 'utf8')).toContain('Black point −5.0 %');
    expect(inkavo('report', file('clip.mp4'), '-o', file('r.doc'))).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('The output is one of'),
    });
  });

  test('export: each into a folder, in the size that is asked for; nothing is written over', () => {
    const into = join(folder, 'out');
    const args = ['export', file('clip.mp4'), '--into', into, '--lines', '120', '--codec', 'h265'];
    expect(inkavo(...args).stdout).toContain('clip.mp4: 25 frames');
    expect(inkavo(...args)).toMatchObject({ status: 2, stderr: expect.stringContaining('is there already') });
    expect(inkavo('export')).toMatchObject({ status: 2, stderr: expect.stringContaining('At least one file') });
  });

  test('frame: TIFF and JPEG', () => {
    for (const ending of ['tiff', 'jpg']) {
      expect(inkavo('frame', file('clip.mp4'), '--at', '3', '-o', file(`f.${ending}`)).status).toBe(0);
      expect(existsSync(file(`f.${ending}`))).toBe(true);
    }
  });
});
