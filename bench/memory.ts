import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CARD } from '@inkavo/demo/folder';

/**
 * Peak memory of an export in its own process, for a clip and for one ten times as long: frame buffers are reused, so
 * it must not grow. 1080p, to H.264.
 */
export function benchMemory(): void {
  const folder = mkdtempSync(join(tmpdir(), 'inkavo-bench-'));
  const original = join(CARD, 'DIVE_HOUSING', 'mooring_block_02.mp4');
  if (!existsSync(original)) throw new Error('The demo footage is needed: npm run demo:footage');
  const clip = join(folder, 'long.mp4');
  execFileSync('ffmpeg', ['-loglevel', 'error', '-stream_loop', '9', '-i', original, '-c', 'copy', '-an', clip]);
  const peak = (frames: number): number => {
    const child = spawnSync(
      process.execPath,
      ['--require', 'tsx/cjs', join(__dirname, 'memoryChild.ts'), clip, String(frames), join(folder, 'out.mp4')],
      { encoding: 'utf8' },
    );
    if (child.status !== 0) throw new Error(child.stderr);
    return Number(child.stdout);
  };
  const [short, long] = [peak(60), peak(600)];
  const megabytes = (kilobytes: number): string => (kilobytes / 1024).toFixed(0);
  console.log(
    `memory of an export: 600 frames ${(long / short).toFixed(2)} of 60 frames (${megabytes(long)} and ${megabytes(short)} MB)`,
  );
  rmSync(folder, { recursive: true });
}
