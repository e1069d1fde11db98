import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeGrade } from '@inkavo/core/formats/json';
import { gradeOf } from '@inkavo/core/model/grade';
import { CARD } from '@inkavo/demo/folder';
import { makeCameraClip } from './cameraClip';
import { cubeText, ENCODER, honestTable, TAGS } from './exportTimes';
import { EIGHT, median } from './grades';

const ROUNDS = Number(process.env.ROUNDS ?? 3);
const [WIDTH, HEIGHT] = [3840, 2160];
/** Two lengths: their difference excludes start-up. */
const LENGTHS = { short: 24, long: 96 };
type Length = keyof typeof LENGTHS;

/** CPU time of a command and its children, user and system, in seconds. */
function processorSeconds(command: string, args: readonly string[]): number {
  const script = 'TIMEFORMAT="%U %S"; time "$@" >&2';
  const { stderr, status } = spawnSync('bash', ['-c', script, 'bash', command, ...args], { encoding: 'utf8' });
  if (status !== 0) throw new Error(`${command} failed: ${stderr.slice(-500)}`);
  const [user, system] = stderr.trim().split('\n').at(-1)!.trim().split(' ').map(Number);
  return user + system;
}

/**
 * CPU time, excluding start-up, of exporting footage like a camera's (4K, 10 bit, sensor noise, 60 Mbit/s): relative to
 * decoding it and encoding the same graded picture, and to the media library's own table filter with equal settings; at
 * half the height relative to the same with the library's scaler in the chain.
 */
export async function benchCamera(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'inkavo-bench-'));
  const at = (name: string): string => join(folder, name);
  const original = join(CARD, 'QUADCOPTER', 'channel_east_03.mp4');
  if (!existsSync(original)) throw new Error('The demo footage is needed: npm run demo:footage');
  try {
    const lengths = Object.keys(LENGTHS) as Length[];
    for (const length of lengths)
      await makeCameraClip(original, at(`${length}.mp4`), { width: WIDTH, height: HEIGHT }, LENGTHS[length]);
    const megabits = (statSync(at('long.mp4')).size * 8) / 1e6 / (LENGTHS.long / 24);
    writeFileSync(at('grade.cube'), cubeText(EIGHT));
    writeFileSync(at('grade.json'), writeGrade(gradeOf(EIGHT)));
    const ffmpeg = (args: readonly string[]): number =>
      processorSeconds('ffmpeg', ['-loglevel', 'error', '-nostdin', '-y', ...args]);
    const own = (length: Length, more: readonly string[] = []): number => {
      rmSync(at('out'), { recursive: true, force: true });
      const grade = ['--grade', at('grade.json'), '--quality', '18', ...more];
      return processorSeconds('node', [
        'dist/inkavo.cjs',
        'export',
        at(`${length}.mp4`),
        '--into',
        at('out'),
        ...grade,
      ]);
    };
    // The same graded picture, as planes: measures encoding alone.
    const raw = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-s', `${WIDTH}x${HEIGHT}`, '-r', '24'];
    for (const length of lengths) {
      own(length, ['--codec', 'ffv1']);
      ffmpeg(['-i', at(`out/${length}.mkv`), ...['-f', 'rawvideo', '-pix_fmt', 'yuv420p'], at(`${length}.yuv`)]);
    }
    const honest = honestTable(at('grade.cube'));
    const half = `scale=-2:${HEIGHT / 2}:flags=bicubic+accurate_rnd+full_chroma_int`;
    const runs: Record<string, (length: Length) => number> = {
      own,
      decode: (length) => ffmpeg(['-i', at(`${length}.mp4`), '-f', 'null', '-']),
      encode: (length) => ffmpeg([...raw, '-i', at(`${length}.yuv`), ...ENCODER, ...TAGS, at('out.mp4')]),
      filter: (length) => ffmpeg(['-i', at(`${length}.mp4`), '-vf', honest, ...ENCODER, ...TAGS, at('out.mp4')]),
      'own, half': (length) => own(length, ['--lines', `${HEIGHT / 2}`]),
      'filter, half': (length) =>
        ffmpeg(['-i', at(`${length}.mp4`), '-vf', `${honest},${half}`, ...ENCODER, ...TAGS, at('out.mp4')]),
    };
    const times: Record<string, number[]> = Object.fromEntries(Object.keys(runs).map((k) => [k, []]));
    for (let i = 0; i < ROUNDS; i += 1) {
      for (const [name, run] of Object.entries(runs)) times[name].push(run('long') - run('short'));
      const said = Object.entries(times).map(([k, v]) => `${k} ${v.at(-1)!.toFixed(1)} s`);
      console.log(`  round ${i + 1}: ${said.join(', ')}`);
    }
    const t = Object.fromEntries(Object.entries(times).map(([k, v]) => [k, median(v)]));
    const pixels = (LENGTHS.long - LENGTHS.short) * WIDTH * HEIGHT;
    const beyond = ((t.own - t.decode - t.encode) / pixels) * 1e9;
    console.log(`export of noisy footage, 4K 10 bit, ${megabits.toFixed(0)} Mbit/s, eight steps, in CPU time:`);
    console.log(
      `  ${(t.own / (t.decode + t.encode)).toFixed(2)} of decoding and encoding the same graded picture, ${beyond.toFixed(1)} ns a pixel beyond them`,
    );
    console.log(`  ${(t.own / t.filter).toFixed(2)} of the media library's table filter`);
    console.log(`  at half the height ${(t['own, half'] / t['filter, half']).toFixed(2)} of the filter and its scaler`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
