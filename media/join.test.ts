import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { joinChapters } from './codec/join';
import { decodeFrame } from './frames/rest';
import { sourceOf, workFolder } from './testClips';

const folder = workFolder();
const [WIDTH, FRAMES] = [320, 60];
/** Frame n has luma 30 + 3 n everywhere; with a tone that begins and ends at its packets. */
const NUMBERED = [
  ...[
    '-f',
    'lavfi',
    '-i',
    `color=gray:size=${WIDTH}x180:rate=25:duration=${FRAMES / 25},format=yuv420p,geq=lum='30+3*N':cb=128:cr=128`,
  ],
  ...['-f', 'lavfi', '-i', `sine=duration=${FRAMES / 25}`],
];
const H264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-g', '12', '-crf', '4'];

test.each([
  ['mp4', 'mp4', [...H264, '-c:a', 'aac']],
  ['mts', 'mpegts', [...H264, '-c:a', 'ac3']],
  [
    'mpg',
    'mpeg',
    [
      '-c:v',
      'mpeg2video',
      '-g',
      '12',
      '-q:v',
      '1',
      '-bf',
      '2',
      '-flags',
      '+cgop',
      '-sc_threshold',
      '1000000000',
      '-c:a',
      'mp2',
    ],
  ],
])('chapters in %s are joined frame by frame, whatever begins first in each', async (ending, container, args) => {
  const chapters = [0, 1].map((i) => join(folder, `clip0${i}.${ending}`));
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-y', ...NUMBERED, ...args, '-f', 'segment', '-segment_format', container],
    ...['-segment_times', '0.95', '-reset_timestamps', '1', join(folder, `clip%02d.${ending}`)],
  ]);
  const output = join(folder, `joined ${ending}`);
  await joinChapters(chapters, output, { names: chapters });
  const source = await sourceOf(output);
  expect(source.facts).toMatchObject({ frames: FRAMES, variableRate: false });
  const sought = [0, 11, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30, 31, 32, 45, 59];
  const found: number[] = [];
  for (const n of sought) found.push(Math.round(((await decodeFrame(source, n)).y[20 * WIDTH + 30] - 30) / 3));
  expect(found).toEqual(sought);
});
