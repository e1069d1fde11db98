import { readFileSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { deliverySchema, megabitsOf } from '@inkavo/core/model/delivery';
import { newStep } from '@inkavo/core/model/grade';
import { make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { exportClip } from './exportClip';
import { makeFilm } from './film';
import { findHardwareEncoders, hardwareEncoders } from './hardwareEncoders';
import { standInHardware, type StandIn } from './standInHardware';

const folder = workFolder();
const path = process.env.PATH!;
const machine = (name: string, encoders: StandIn[]): void => {
  process.env.PATH = `${standInHardware(join(folder, name), encoders)}:${path}`;
};
afterEach(() => {
  process.env.PATH = path;
});

test('hardware encoders are found by trying them; what fails, or spoils the picture, is left out', async () => {
  machine('several', [
    { name: 'h264_fails', by: 'libx264', fault: 'fails' },
    { name: 'h264_black', by: 'libx264', fault: 'black' },
    { name: 'hevc_black', by: 'libx264', fault: 'black' },
    { name: 'h264_standin', by: 'libx264', device: 'standin' },
  ]);
  expect([...(await findHardwareEncoders())]).toEqual([
    ['h264', { name: 'h264_standin', format: 'nv12', device: 'standin' }],
  ]);
  machine('none', []);
  const listed = await findHardwareEncoders();
  // The result depends on this machine; nothing was made up.
  expect([...listed.values()].map((e) => e.name)).not.toContain('h264_standin');
});

test('a machine without the media library has none', async () => {
  process.env.PATH = folder;
  expect((await findHardwareEncoders()).size).toBe(0);
});

describe('a clip through a hardware encoder', () => {
  const STEPS = [newStep('range', 'r', { exposure: 0.3 })];
  const clip = join(folder, 'clip.mp4');
  const frames = 48;
  const works = (refuses?: string): void => {
    machine('works', [{ name: 'h264_standin', by: 'libx264', device: 'standin', refuses }]);
    rmSync(join(folder, 'works', 'used'), { force: true });
  };
  const used = (): string[] =>
    readFileSync(join(folder, 'works', 'used'), 'utf8')
      .trim()
      .split('\n');
  beforeAll(async () => {
    const encode = ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '8', ...TAGS_709];
    make(clip, `testsrc2=size=640x360:rate=24:duration=2,format=yuv420p,noise=alls=12:allf=t`, encode);
    works();
    expect([...(await hardwareEncoders()).keys()]).toContain('h264');
  });
  const deliver = async (
    name: string,
    delivery: object,
    refuses?: string,
  ): Promise<{ bytes: number; found: object }> => {
    works(refuses);
    const output = join(folder, name);
    const source = await sourceOf(clip);
    const wanted = deliverySchema.parse(delivery);
    await exportClip({ source, steps: STEPS, delivery: wanted, inFrame: 0, outFrame: frames - 1, output });
    return { bytes: statSync(output).size, found: (await sourceOf(output)).facts };
  };

  test('has all frames, its size and tags, and about the bitrate that was foretold', async () => {
    const wanted = { codec: 'h264', effort: 'fast', megabits: 3 };
    const { bytes, found } = await deliver('fast.mp4', wanted);
    expect(found).toMatchObject({ frames, width: 640, height: 360, depth: 8, tags: { transfer: 'bt709' } });
    expect(used()).toEqual(['h264_standin']);
    expect((bytes * 8) / 2 / 3e6).toBeGreaterThan(0.6);
    expect((bytes * 8) / 2 / 3e6).toBeLessThan(1.4);
    // Also when scaled: frames are uploaded after all other filters.
    const small = await deliver('small.mp4', { ...wanted, lines: 180 });
    expect(small.found).toMatchObject({ frames, width: 320, height: 180 });
  });

  test('a codec that it does not encode is encoded by the CPU', async () => {
    const { found } = await deliver('other.mp4', { codec: 'h265x8', effort: 'fast' });
    expect(found).toMatchObject({ frames, codec: 'hevc' });
  });

  test('a size that it refuses is encoded by the CPU as well', async () => {
    const { found } = await deliver('refused.mp4', { codec: 'h264', effort: 'fast' }, '640x360');
    expect(found).toMatchObject({ frames, width: 640, height: 360 });
    expect(used()).toEqual(['h264_standin']);
  });

  test('nor does a film end where it refuses the size', async () => {
    works('640x360');
    const source = await sourceOf(clip);
    const output = join(folder, 'refused-film.mp4');
    const shot = { source, steps: STEPS, luts: {}, inFrame: 0, outFrame: 23, retime: null };
    const delivery = deliverySchema.parse({ codec: 'h264', effort: 'fast' });
    const made = await makeFilm({ shots: [shot], output, dissolve: 0, levelled: false, delivery });
    expect(made.frames).toBe(24);
    expect(used()).toEqual(['h264_standin']);
    expect((await sourceOf(output)).facts.frames).toBe(24);
  });

  test('a film too', async () => {
    works();
    const source = await sourceOf(clip);
    const output = join(folder, 'film.mp4');
    const shot = { source, steps: STEPS, luts: {}, inFrame: 0, outFrame: 23, retime: null };
    const delivery = deliverySchema.parse({ codec: 'h264', effort: 'fast' });
    const made = await makeFilm({ shots: [shot, shot], output, dissolve: 0, levelled: false, delivery });
    expect(used()).toEqual(['h264_standin']);
    expect(made.frames).toBe(48);
    expect((await sourceOf(output)).facts).toMatchObject({ frames: 48, width: 640, height: 360 });
  });
});

test('a quality becomes a bitrate: six steps halve it, and a number that is given stays', () => {
  const pixels = 1920 * 1080 * 30;
  const at = (quality: number): number => megabitsOf({ codec: 'h264', quality }, pixels);
  expect(at(18)).toBeCloseTo(12, 0);
  expect(at(24) / at(18)).toBeCloseTo(0.5, 1);
  expect(megabitsOf({ codec: 'h264', quality: 18, megabits: 7 }, pixels)).toBe(7);
});
