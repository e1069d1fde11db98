import { join } from 'node:path';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { bt709 } from '@inkavo/core/colour/transfer';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import { compile } from '@inkavo/core/program/compile';
import { evaluate } from '@inkavo/core/program/evaluate';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { deliveredColour } from '@inkavo/core/program/deliver';
import { LAID_OUT } from '@inkavo/core/steps';
import { asHlg, hlgTable } from '@inkavo/core/steps/lut/asHlg';
import { lookUp } from '@inkavo/core/program/table';
import { decodeFrame, type Source } from '../frames/rest';
import { frameSums, make, QUICK_H264, sourceOf, TAGS_HLG, workFolder } from '../testClips';
import { exportClip } from './exportClip';

const folder = workFolder();
const profile = PROFILES.find((p) => p.transfer.kind === 'hlg')!;
/** The full recording is kept: nothing is compressed into the smaller gamut. */
const CONVERT = newStep('convert', 'c', { profile, gamut: 0 });
const LIFT: Step[] = [CONVERT, newStep('balance', 'b', { exposure: 0.3 }), newStep('saturation', 's', { amount: 1.1 })];

let source: Source;
beforeAll(async () => {
  const path = make(
    join(folder, 'hlg.mkv'),
    // Colours of natural scenes, from near black to far above white.
    'gradients=size=320x180:rate=25:duration=0.2:x0=0:y0=0:x1=319:y1=179:nb_colors=6:c0=0x080a09:c1=0x404a3a:c2=0x806a60:c3=0x90a0b0:c4=0xd8d0c0:c5=0xf4f8fc:speed=0.00001,format=yuv444p10le',
    ['-c:v', 'ffv1', '-pix_fmt', 'yuv444p10le', ...TAGS_HLG],
  );
  source = await sourceOf(path);
});

async function deliver(name: string, steps: Step[]): Promise<Source> {
  const output = join(folder, `${name}.mkv`);
  const delivery = { codec: 'ffv1', colour: 'hlg' } as const;
  await exportClip({ source, steps, delivery, inFrame: 0, outFrame: 4, output });
  return sourceOf(output);
}
/** Differences of R'G'B', in 10-bit code values of limited range, smallest first. */
const apart = (a: ArrayLike<number>, b: ArrayLike<number>): number[] =>
  Array.from({ length: a.length }, (_, i) => 876 * Math.abs(a[i] - b[i])).sort((x, y) => x - y);
const share = (list: number[], of: number): number => list[Math.floor(of * (list.length - 1))];
const exactly = async (steps: Step[]): Promise<Float32Array> => {
  const rgb = pictureToRgb(undefined, await decodeFrame(source, 2));
  const program = compile(steps, 0.08);
  for (let i = 0; i < rgb.length; i += 3) rgb.set(evaluate(program, [rgb[i], rgb[i + 1], rgb[i + 2]] as Vec3, true), i);
  return rgb;
};

test('the signal is that of BT.2100: grey card and white where BT.2408 has them, primaries by BT.2087', () => {
  const signal = (linear: Vec3): Vec3 => {
    const rgb = linear.map((l) => bt709.encode(l)) as Vec3;
    asHlg(rgb);
    return rgb;
  };
  // ITU-R BT.2408-7, table 1: an 18 % grey card at 38 %, reference white at 75 %.
  expect(signal([0.18, 0.18, 0.18])[1]).toBeCloseTo(0.38, 2);
  expect(signal([1, 1, 1])[1]).toBeCloseTo(0.75, 9);
  // ITU-R BT.2087-0: linear BT.709 to BT.2020. Below 1/12 the signal is the square root of three times the light.
  const row = [0.6274, 0.0691, 0.0164];
  const light = 0.05;
  const white = 0.265;
  signal([light, 0, 0]).forEach((s, c) => expect(s ** 2 / 3 / white / light).toBeCloseTo(row[c], 3));
});

test('its table is as exact as ten bits need', () => {
  const table = hlgTable();
  const all: number[] = [];
  const random = (k: number): number => (k * 0.7548776662) % 1;
  for (let k = 1; k < 3000; k += 1) {
    const rgb: Vec3 = [1.9 * random(k) ** 2, 1.9 * random(3 * k) ** 2, 1.9 * random(7 * k) ** 2];
    const out: Vec3 = [0, 0, 0];
    lookUp(table, ...rgb, out);
    asHlg(rgb);
    rgb.forEach((v, c) => all.push(876 * Math.abs(v - out[c])));
  }
  // Largest for colours that only monochromatic light has.
  expect(Math.max(...all)).toBeLessThan(8);
  expect(
    share(
      all.toSorted((a, b) => a - b),
      0.99,
    ),
  ).toBeLessThan(2);
  expect(all.reduce((sum, v) => sum + v, 0) / all.length).toBeLessThan(0.2);
});

test('converted and delivered as HLG, it is what was recorded, with its tags', async () => {
  const made = await deliver('same', [CONVERT]);
  expect(made.facts).toMatchObject({
    ...{ frames: 5, depth: 10, matrix: 'bt2020', range: 'limited' },
    tags: { matrix: 'bt2020nc', primaries: 'bt2020', transfer: 'arib-std-b67' },
  });
  const own = pictureToRgb(undefined, await decodeFrame(source, 2));
  const held = own.map((v) => Math.min(1, Math.max(0, v)));
  const list = apart(pictureToRgb(undefined, await decodeFrame(made, 2)), held);
  // Luma, red and blue difference are each rounded to a step.
  expect(share(list, 0.999)).toBeLessThan(2);
  expect(share(list, 1)).toBeLessThan(4);
});

test('graded, it is what the exact evaluator says; light beyond white stays', async () => {
  const made = await deliver('lifted', LIFT);
  const expected = await exactly(deliveredColour(LIFT, { colour: 'hlg' }).steps);
  const list = apart(pictureToRgb(undefined, await decodeFrame(made, 2)), expected);
  expect(share(list, 0.97)).toBeLessThan(2.5);
  expect(expected.some((v) => v > 0.8)).toBe(true);
});

test('behind a step that reads the place as well', async () => {
  const steps = [...LIFT, newStep('corners', 'k', { amount: 0.0005 })];
  const made = await deliver('corners', steps);
  expect(deliveredColour(steps, { colour: 'hlg' }).steps.at(-1)!.params.lut).toBe('as-hlg-own');
  const list = apart(
    pictureToRgb(undefined, await decodeFrame(made, 2)),
    pictureToRgb(undefined, await decodeFrame(await deliver('plain', LIFT), 2)),
  );
  // At black, where the signal is a square root, the table before it is less accurate.
  expect(share(list, 0.97)).toBeLessThan(2.5);
  expect(share(list, 1)).toBeLessThan(6);
});

test('without a conversion the steps work on the signal itself, which leaves as it was tagged', async () => {
  const made = await deliver('own', [newStep('range', 'r', { black: 0.02 })]);
  expect(made.facts.tags).toMatchObject({ matrix: 'bt2020nc', primaries: 'bt2020', transfer: 'arib-std-b67' });
  const list = apart(
    pictureToRgb(undefined, await decodeFrame(made, 2)),
    await exactly([newStep('range', 'r', { black: 0.02 })]),
  );
  expect(share(list, 0.999)).toBeLessThan(2.5);
});

test('steps that lie ready change nothing, and one that takes it for standard video is no conversion', async () => {
  const ready = LAID_OUT.map((kind) => newStep(kind, kind));
  const made = await deliver('ready', ready);
  expect(made.facts.tags).toMatchObject({ matrix: 'bt2020nc', transfer: 'arib-std-b67' });
  expect(frameSums(made.path)).toEqual(frameSums(source.path));
  const standard = newStep('convert', 'c', { exposure: 0.5 });
  expect(deliveredColour([...ready, standard], { colour: 'hlg' })).toMatchObject({ as: 'own' });
  expect(deliveredColour([...ready, CONVERT], { colour: 'hlg' })).toMatchObject({ as: 'hlg' });
});

test('what was not recorded in HLG, and what has 8 bits, is refused with a sentence', async () => {
  const plain = await sourceOf(
    make(join(folder, 'plain.mp4'), 'testsrc2=size=320x180:rate=25:duration=0.2', QUICK_H264),
  );
  const job = { steps: LIFT, inFrame: 0, outFrame: 4, output: join(folder, 'no.mkv') };
  await expect(exportClip({ ...job, source: plain, delivery: { codec: 'ffv1', colour: 'hlg' } })).rejects.toThrow(
    'not recorded in HLG',
  );
  await expect(exportClip({ ...job, source, delivery: { codec: 'h264', colour: 'hlg' } })).rejects.toThrow('10 bits');
});
