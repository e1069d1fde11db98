import { join } from 'node:path';
import { readOtio } from '@inkavo/core/formats/timeline/otio';
import { deliverySchema } from '@inkavo/core/model/delivery';
import { DOCUMENTS } from '@inkavo/core/model/document';
import { gradeOf, newStep, type Step } from '@inkavo/core/model/grade';
import { makeFilm } from '../export/film';
import { frameSums, make, QUICK_H264, sourceOf, TAGS_709, workFolder } from '../testClips';
import { closeThreads } from '../threads/pool';
import { documentOf } from './index';
import type { Outline, OutlineClip } from './outline';
import { aspectOf } from './pdf';
import { beforeAndAfter } from './report';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const STEPS: Step[] = [
  newStep('range', 'r', { black: -0.05, exposure: 0.5 }),
  { ...newStep('saturation', 's', { amount: 1.3 }), strength: 0.5 },
  { ...newStep('curves', 'c', {}), on: false },
];

async function clip(path: string, part: Partial<OutlineClip> = {}): Promise<OutlineClip> {
  const source = await sourceOf(path);
  return {
    ...{
      name: path.split('/').at(-1)!,
      file: path.split('/').at(-1)!,
      camera: 'Helmet camera',
      sha256: 'ab'.repeat(32),
      source,
      steps: STEPS,
      luts: {},
    },
    ownerOf: (id) => (id === 'r' ? 'camera' : 'clip'),
    ...{ inFrame: 2, outFrame: source.facts.frames - 3, referenceFrame: 5, retime: null },
    ...part,
  };
}

let outline: Outline;
beforeAll(async () => {
  make(file('a.mp4'), 'testsrc2=size=640x360:rate=30:duration=1', QUICK_H264);
  make(file('upright.mp4'), 'testsrc=size=180x320:rate=30:duration=1', [
    '-c:v',
    'libx264',
    '-pix_fmt',
    'yuv420p',
    ...TAGS_709,
  ]);
  outline = {
    ...{ name: '<Bay> & "friends"', place: "O'Hara's quay", date: '2031-06-14' },
    clips: [
      await clip(file('a.mp4')),
      await clip(file('upright.mp4'), {
        steps: [],
        retime: { factor: 0.5, rate: null, between: 'nearest', sound: 'goes' },
      }),
    ],
  };
});
afterAll(closeThreads);

test('every form is made, and tells how far it is', async () => {
  for (const form of DOCUMENTS) {
    const shares: number[] = [];
    const made = await documentOf(form, outline, { onProgress: (share) => shares.push(share) });
    expect(made.length).toBeGreaterThan(200);
    expect(shares).toEqual([0.5, 1]);
  }
});

test('a page that needs nothing else: names escaped, steps in words and numbers, both pictures, check sums', async () => {
  const html = String(await documentOf('report.html', outline));
  expect(html).toContain('&lt;Bay&gt; &amp; &quot;friends&quot;');
  expect(html).not.toMatch(/<script|https?:\/\/|src="(?!data:)/);
  expect(html.match(/data:image\/jpeg;base64,/g)).toHaveLength(4);
  for (const text of [
    'Black point −5.0 %',
    'Exposure +0.50 stop',
    'Saturation',
    'clip · 50 %',
    'ab'.repeat(32),
    'frames 2–27',
  ])
    expect(html).toContain(text);
  expect(html).not.toContain('Curves');
  expect(html).toContain('at 50 % of the recorded speed');
});

test('the same as data, without pictures', async () => {
  const { clips, outing } = JSON.parse(String(await documentOf('report.json', outline)));
  expect(outing.name).toBe('<Bay> & "friends"');
  expect(clips[0]).toMatchObject({
    name: 'a.mp4',
    inFrame: 2,
    outFrame: 27,
    seconds: 26 / 30,
    steps: [{ owner: 'camera' }, { strength: 0.5 }],
  });
  expect(clips[1]).toMatchObject({ speed: 0.5, steps: [], readings: { before: clips[1].readings.after } });
  expect(clips[0].pictures).toBeUndefined();
});

test('PDFs: their header, their pages, their end', async () => {
  const pdf = ((await documentOf('report.pdf', outline)) as Buffer).toString('latin1');
  expect(pdf.startsWith('%PDF-1.')).toBe(true);
  expect(pdf.trimEnd().endsWith('%%EOF')).toBe(true);
  expect(Number(/\/Type \/Pages\n\/Count (\d+)/.exec(pdf)![1])).toBeGreaterThanOrEqual(1);
  expect(pdf.match(/\/Subtype \/Image/g)!.length).toBe(4);
});

test('the height over the width of a JPEG', async () => {
  const { before } = await beforeAndAfter(outline.clips[1], 180);
  expect(aspectOf(before)).toBeCloseTo(320 / 180, 2);
});

test('a film that is rendered from the timeline is the film of the same clips, frame by frame', async () => {
  const clips = [outline.clips[0], await clip(file('a.mp4'), { inFrame: 10, outFrame: 25 })].map((c) => ({
    ...c,
    steps: STEPS,
  }));
  const list = readOtio(String(await documentOf('timeline.otio', { ...outline, clips }, { dissolve: 0.2 })));
  const common = { delivery: deliverySchema.parse({ codec: 'ffv1' }), levelled: false, work: folder };
  await makeFilm({ ...common, shots: clips, dissolve: 0.2, output: file('film.mkv') });
  const shots = await Promise.all(
    list.clips.map(async ({ path, inFrame, outFrame }) => ({
      source: await sourceOf(file(path.replace('media/', ''))),
      ...{ steps: STEPS, inFrame, outFrame },
    })),
  );
  await makeFilm({ ...common, shots, dissolve: list.dissolve, output: file('again.mkv') });
  expect(frameSums(file('again.mkv'))).toEqual(frameSums(file('film.mkv')));
  expect(gradeOf(STEPS).steps).toHaveLength(3);
});
