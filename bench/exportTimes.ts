import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Step } from '@inkavo/core/model/grade';
import { bake } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { CARD } from '@inkavo/demo/folder';
import { probe } from '@inkavo/media/codec';
import { exportClip } from '@inkavo/media/export/exportClip';
import { EIGHT, median, ms, ONE, ONE_REGION, THREE_REGIONS, TWELVE } from './grades';

/** Runs are alternated; more rounds average out other load. */
const ROUNDS = Number(process.env.ROUNDS ?? 3);
/** Length of the clip in seconds, twelve at most. */
const SECONDS = Number(process.env.SECONDS ?? 10);
export const ENCODER = [
  '-c:v',
  'libx264',
  '-preset',
  'veryfast',
  '-profile:v',
  'high',
  '-crf',
  '18',
  '-pix_fmt',
  'yuv420p',
  '-an',
];
export const TAGS = ['-color_range', 'tv', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'];

/** The steps' table as text for the media library's filter. */
export function cubeText(steps: Step[]): string {
  const { size, data } = bake({ ...tableOf(compile(steps, 0)), domain: [0, 1] }, 33);
  const lines = [`LUT_3D_SIZE ${size}`];
  for (let o = 0; o < data.length; o += 4)
    lines.push([data[o], data[o + 1], data[o + 2]].map((v) => v.toFixed(6)).join(' '));
  return `${lines.join('\n')}\n`;
}

/** The media library's table filter with equal settings: float R'G'B', tetrahedral, explicit matrix and range. */
export const honestTable = (cube: string): string =>
  `scale=in_color_matrix=bt709:in_range=tv,format=gbrpf32le,lut3d=file=${cube}:interp=tetrahedral,scale=out_color_matrix=bt709:out_range=tv,format=yuv420p`;

/** Runs the media library's program and returns its wall time in milliseconds. */
const ffmpeg = (args: string[]): number => {
  const t = performance.now();
  execFileSync('ffmpeg', ['-loglevel', 'error', '-nostdin', '-y', ...args]);
  return ms(t);
};

/**
 * Export of a 4K 10-bit HEVC clip of ten seconds (`SECONDS`) to H.264, eight steps: relative to the media library's own
 * table filter with equal settings (float RGB, explicit matrix and range, the same baked table), and to a transcode
 * without colour work; the same encoder settings, runs alternated. Then twelve steps relative to one.
 */
export async function benchExport(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'inkavo-bench-'));
  const original = join(CARD, 'QUADCOPTER', 'channel_east_03.mp4');
  if (!existsSync(original)) throw new Error('The demo footage is needed: npm run demo:footage');
  const clip = join(folder, 'clip.mp4');
  ffmpeg(['-stream_loop', '2', '-i', original, '-t', String(SECONDS), '-c', 'copy', '-an', clip]);
  const cube = join(folder, 'grade.cube');
  writeFileSync(cube, cubeText(EIGHT));
  const source = { path: clip, ...(await probe(clip)) };
  const out = join(folder, 'out.mp4');
  const own = async (steps: Step[], threads?: number): Promise<number> => {
    rmSync(out, { force: true });
    const t = performance.now();
    await exportClip({
      source,
      steps,
      delivery: { codec: 'h264', quality: 18 },
      inFrame: 0,
      outFrame: source.facts.frames - 1,
      output: out,
      threads,
    });
    return ms(t);
  };
  const honest = honestTable(cube);
  // The encoder's cost depends on the picture, and a graded one has more detail than a flat one.
  const graded = join(folder, 'graded.mp4');
  await exportClip({
    source,
    steps: EIGHT,
    delivery: { codec: 'h265', quality: 12 },
    inFrame: 0,
    outFrame: source.facts.frames - 1,
    output: graded,
  });
  const runs: Record<string, () => number | Promise<number>> = {
    own: () => own(EIGHT),
    library: () => ffmpeg(['-i', clip, '-vf', honest, ...ENCODER, ...TAGS, out]),
    transcode: () => ffmpeg(['-i', clip, ...ENCODER, ...TAGS, out]),
    one: () => own(ONE),
    twelve: () => own(TWELVE),
    two: () => own(EIGHT, 2),
    'one region': () => own(ONE_REGION),
    'three regions': () => own(THREE_REGIONS),
    again: () => ffmpeg(['-i', graded, ...ENCODER, ...TAGS, out]),
  };
  const times: Record<string, number[]> = Object.fromEntries(Object.keys(runs).map((k) => [k, []]));
  for (let i = 0; i < ROUNDS; i += 1) {
    for (const [name, run] of Object.entries(runs)) times[name].push(await run());
    console.log(
      `  round ${i + 1}: ${Object.entries(times)
        .map(([k, v]) => `${k} ${((v.at(-1) ?? 0) / 1000).toFixed(1)} s`)
        .join(', ')}`,
    );
  }
  const t = Object.fromEntries(Object.entries(times).map(([k, v]) => [k, median(v)]));
  const { frames } = source.facts;
  console.log(`export, 4K 10 bit to H.264, ${frames} frames, eight steps: ${(t.own / 1000).toFixed(1)} s`);
  console.log(
    `  ${(t.own / t.library).toFixed(2)} of the media library's table filter (${(t.library / 1000).toFixed(1)} s)`,
  );
  console.log(
    `  ${(t.own / t.transcode).toFixed(2)} of the transcode without colour work (${(t.transcode / 1000).toFixed(1)} s)`,
  );
  console.log(`  ${(t.own / t.again).toFixed(2)} of a transcode of the graded picture (10-bit HEVC too)`);
  console.log(
    `  twelve steps ${(t.twelve / t.one).toFixed(2)} of one step; two threads ${(t.two / t.own).toFixed(2)} of one`,
  );
  console.log(
    `  three moving regions, a matte and water ${(t['three regions'] / t.library).toFixed(2)} of the table filter; ` +
      `one moving region ${(t['one region'] / t.own).toFixed(2)} of none`,
  );
  spawnSync('rm', ['-rf', folder]);
}
