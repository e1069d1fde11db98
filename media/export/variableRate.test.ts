import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pictureBytes } from '@inkavo/core/program/cpu/planar';
import { pixelFormatName } from '../codec/formats';
import { QUIET } from '../codec/run';
import { decodeFrame } from '../frames/rest';
import { make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { gradeInto } from './exportClip';
import { startCodec } from './parts';

const folder = workFolder();
const CAMERA = ['-c:v', 'libx264', '-g', '12', '-bf', '2', ...TAGS_709, '-pix_fmt', 'yuv420p'];

test.each([
  ['drops frames now and then', `select='not(eq(mod(n\\,5)\\,3))'`],
  ['slows down', `setpts='if(lt(N,9),N,9+2.5*(N-9))/30/TB'`],
  ['has twice the frames of its rate for a while', `settb=1/90000,setpts='if(lt(N,12),N/2,N-6)/30/TB'`],
])('a file that %s: wherever an export begins, its frames are those that are seen at rest', async (_name, how) => {
  const source = await sourceOf(
    make(join(folder, 'variable.mp4'), `testsrc2=size=192x108:rate=30:duration=0.8,${how}`, [
      ...CAMERA,
      ...['-fps_mode', 'passthrough', '-enc_time_base', '1:90000', '-video_track_timescale', '90000'],
    ]),
  );
  expect(source.facts.variableRate).toBe(true);
  const { frames } = source.facts;
  const rest = await Promise.all(Array.from({ length: frames }, (_, n) => decodeFrame(source, n)));
  const bytes = pictureBytes(rest[0].format);
  const path = join(folder, 'graded.raw');
  for (const inFrame of [0, 2, 3, 4, 7, 9, 11]) {
    const outFrame = Math.min(frames - 1, inFrame + 8);
    await gradeInto({ source, steps: [], inFrame, outFrame, delivery: { codec: 'ffv1' } }, ({ format, pipe }) => {
      const raw = ['-f', 'rawvideo', '-pix_fmt', pixelFormatName(format), '-s', `${format.width}x${format.height}`];
      return startCodec('encoder', [...QUIET, '-y', ...raw, '-i', pipe, '-f', 'rawvideo', path]);
    });
    const got = readFileSync(path);
    expect(got.length / bytes).toBe(outFrame - inFrame + 1);
    for (let n = inFrame; n <= outFrame; n += 1) {
      const frame = got.subarray((n - inFrame) * bytes, (n - inFrame + 1) * bytes);
      if (Buffer.compare(frame, Buffer.from(rest[n].y.buffer)) !== 0)
        throw new Error(`From ${inFrame}: frame ${n} is another one than at rest.`);
    }
  }
});
