import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { measure } from '@inkavo/core/scopes/statistics';
import { measureMarks } from '@inkavo/core/scopes/vectorscope';
import { make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { decodeFrame } from './rest';

/** The media library's signal statistics of a file's first frame, in 8-bit code values. */
function signalStats(path: string): Record<string, number> {
  const text = execFileSync('ffprobe', [
    ...['-v', 'error', '-f', 'lavfi', '-i', `movie=${path},signalstats`, '-read_intervals', '%+#1'],
    ...['-show_entries', 'frame_tags', '-of', 'json'],
  ]).toString();
  const { tags } = (JSON.parse(text) as { frames: { tags: Record<string, string> }[] }).frames[0];
  return Object.fromEntries(Object.entries(tags).map(([k, v]) => [k.replace('lavfi.signalstats.', ''), Number(v)]));
}

test('figures agree with the media library’s signal statistics', async () => {
  const path = make(join(workFolder(), 'stats.mkv'), 'testsrc2=size=640x360:rate=25:duration=0.2', [
    ...['-c:v', 'ffv1', '-pix_fmt', 'yuv444p'],
    ...TAGS_709,
  ]);
  const stats = signalStats(path);
  const picture = await decodeFrame(await sourceOf(path), 0);
  const rgb = pictureToRgb(undefined, picture);
  const { luma, chroma } = measure(rgb, rgb, { low: -Infinity, high: Infinity });
  const { overall } = measureMarks(rgb, { low: 0.3, high: 0.7 });
  const code = (v: number) => 16 + 219 * v;
  // Theirs are the extremes and the tenths, ours the two hundredths between them.
  expect(code(luma.low)).toBeGreaterThan(stats.YMIN - 1);
  expect(code(luma.low)).toBeLessThan(stats.YLOW + 1);
  expect(code(luma.high)).toBeGreaterThan(stats.YHIGH - 1);
  expect(code(luma.high)).toBeLessThan(stats.YMAX + 1);
  expect(Math.abs(128 + 224 * overall.cb - stats.UAVG)).toBeLessThan(0.5);
  expect(Math.abs(128 + 224 * overall.cr - stats.VAVG)).toBeLessThan(0.5);
  // Its mean saturation is the mean of truncated integers.
  expect(Math.abs(chroma.mean * 0.5 * 224 - stats.SATAVG)).toBeLessThan(1);
});
