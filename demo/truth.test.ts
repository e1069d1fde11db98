import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ciede2000 } from '@inkavo/core/colour/difference';
import { encodedToLab, linearToLab } from '@inkavo/core/colour/lab';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { profileSchema, type Profile } from '@inkavo/core/model/profile';
import { bake, lookUp, type Table } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { compileBefore } from '@inkavo/core/program/evaluate';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { sampleArea, type Area } from '@inkavo/core/scopes/sampleArea';
import { fileEnds } from '@inkavo/core/scopes/statistics';
import { pickNeutral } from '@inkavo/core/steps/balance/pick';
import { probe } from '@inkavo/media/codec';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { FIRST_CLIPS } from './catalogue';
import { CARD } from './folder';
import type { PatchPlace } from './patches';
import { SCENES, sceneOf } from './scenes';

interface Truth {
  profile: Profile;
  patches: { frame: number; places: PatchPlace[] }[];
}
const FRAME = 90;

const pathOf = (folder: string): string => {
  const scene = SCENES.find((s) => s.folder === folder)!;
  return join(CARD, folder, scene.file);
};
const truthOf = (path: string): Truth => JSON.parse(readFileSync(path.replace('.mp4', '.truth.json'), 'utf8')) as Truth;

/** Mean encoded colour of the pixels of an area, each converted by a table. */
function areaThrough(table: Table, code: Float32Array, width: number, height: number, area: Area): Vec3 {
  const { linear: pixels } = sampleArea(code, width, height, area, (c) => lookUp(table, c[0], c[1], c[2], c), {
    low: -Infinity,
    high: Infinity,
  });
  const sum: Vec3 = [0, 0, 0];
  pixels.forEach((v, i) => (sum[i % 3] += v / (pixels.length / 3)));
  return sum;
}

/** Mean CIEDE2000 of a clip's patches after its profile is converted and the grey card picked as neutral. */
async function errorAfterConversion(folder: string): Promise<{ mean: number; worst: number }> {
  const path = pathOf(folder);
  const truth = truthOf(path);
  const source = { path, ...(await probe(path)) };
  const { width, height } = source.facts;
  const code = pictureToRgb(undefined, await decodeFrame(source, FRAME));
  const places = truth.patches.find((p) => p.frame === FRAME)!.places;
  const areaOf = (p: PatchPlace): Area => ({
    x: p.x / width,
    y: p.y / height,
    width: p.width / width,
    height: p.height / height,
  });
  const steps: Step[] = [newStep('convert', 'c', { profile: truth.profile }), newStep('balance', 'b')];
  const before = compileBefore(steps, 'b', 0);
  const grey = areaOf(places.find((p) => p.name === 'grey card')!);
  const picked = pickNeutral(sampleArea(code, width, height, grey, (rgb) => before(rgb), fileEnds(code)));
  if (!picked.ok) throw new Error(picked.text);
  steps[1] = newStep('balance', 'b', picked.params);
  const table = bake(tableOf(compile(steps, 0)), 65);
  const errors = places.map((p) => {
    const graded = areaThrough(table, code, width, height, areaOf(p));
    return ciede2000(encodedToLab(graded), linearToLab(p.reflectance as Vec3));
  });
  return { mean: errors.reduce((a, e) => a + e, 0) / errors.length, worst: Math.max(...errors) };
}

test('the footage is there, with sound, in the sizes and depths that the scenes say', async () => {
  for (const { file } of FIRST_CLIPS) {
    const scene = sceneOf(file);
    const { facts } = await probe(pathOf(scene.folder));
    const { width, height, frames, fps } = scene;
    expect(facts).toMatchObject({
      width,
      height,
      frames,
      depth: scene.camera.depth,
      frameRate: { num: fps, den: 1 },
      audio: { codec: 'aac' },
    });
    expect(existsSync(pathOf(scene.folder).replace('.mp4', '.truth.json'))).toBe(true);
  }
});

test('log clip, converted with its profile and balanced on the grey card: patches against the truth', async () => {
  const { mean, worst } = await errorAfterConversion('QUADCOPTER');
  console.log(`log clip against the truth: CIEDE2000 mean ${mean.toFixed(2)}, worst ${worst.toFixed(2)}`);
  expect(mean).toBeLessThanOrEqual(2);
});

test('flat clip likewise', async () => {
  const { mean, worst } = await errorAfterConversion('HELMET_CAMERA');
  console.log(`flat clip against the truth: CIEDE2000 mean ${mean.toFixed(2)}, worst ${worst.toFixed(2)}`);
  // This camera has vignetting, which neither step removes.
  expect(mean).toBeLessThanOrEqual(3);
});

test('every profile of a camera in the demo is one that a file may carry', () => {
  for (const scene of SCENES) expect(profileSchema.safeParse(scene.camera.profile).success).toBe(true);
});

test('the slate stands in the first second of the dive only, and the depth grows', () => {
  const truth = JSON.parse(readFileSync(pathOf('DIVE_HOUSING').replace('.mp4', '.truth.json'), 'utf8')) as Truth & {
    depth: { metres: number }[];
  };
  expect(truth.patches.filter((p) => p.places.length > 0).map((p) => p.frame)).toEqual([0, 15]);
  expect(truth.depth.every((d, i) => i === 0 || d.metres >= truth.depth[i - 1].metres)).toBe(true);
});
