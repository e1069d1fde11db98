import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import type { DeliveryRequest } from '@inkavo/core/model/delivery';
import { audioTracks } from '@inkavo/core/model/facts';
import { retimeSchema } from '@inkavo/core/model/retime';
import { probe } from '../codec';
import { make, sourceOf, TAGS_709, workFolder } from '../testClips';
import { exportClip } from './exportClip';
import { soundCodec } from './sound';

const folder = workFolder();
const file = (name: string): string => join(folder, name);
const PICTURES = 'testsrc2=size=256x144:rate=30:duration=1';
const PICTURES_CODED = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '10', ...TAGS_709];

async function deliver(
  from: string,
  to: string,
  delivery: DeliveryRequest,
  part: { inFrame?: number; outFrame?: number; factor?: number } = {},
): Promise<void> {
  const source = await sourceOf(from);
  const { inFrame = 0, outFrame = source.facts.frames - 1, factor } = part;
  const retime = factor === undefined ? undefined : retimeSchema.parse({ factor });
  await exportClip({ source, steps: [], delivery, inFrame, outFrame, retime, output: to });
}

/** A sound track's samples, in one channel at 48 kHz. */
function samplesOf(path: string, track = 0): Int16Array {
  const args = ['-v', 'error', '-i', path, '-map', `0:a:${track}`, '-ac', '1', '-ar', '48000', '-f', 's16le', '-'];
  return new Int16Array(new Uint8Array(execFileSync('ffmpeg', args)).buffer);
}

/** Frequency of a tone in Hz, from its zero crossings between 0.1 and 0.4 seconds. */
function toneOf(path: string, track: number): number {
  const samples = samplesOf(path, track).slice(4_800, 19_200);
  return samples.filter((v, i) => i > 0 && v >= 0 !== samples[i - 1] >= 0).length / 0.6;
}

test('sound is copied where it then begins with the picture, else encoded', () => {
  const aac = { codec: 'aac', channels: 2, sampleRate: 48_000, index: 0 };
  expect(soundCodec(aac, 'mp4', false)).toEqual(['-c:a', 'copy']);
  expect(soundCodec({ ...aac, sampleRate: 22_050 }, 'mp4', false)).toContain('aac');
  expect(soundCodec({ ...aac, codec: 'flac' }, 'mkv', true)).toEqual(['-c:a', 'copy']);
  expect(soundCodec({ ...aac, codec: 'flac' }, 'mkv', false)).toEqual(['-c:a', 'flac']);
  expect(soundCodec({ ...aac, codec: 'pcm_bluray' }, 'mkv', true)).toEqual(['-c:a', 'flac']);
  expect(soundCodec({ ...aac, codec: 'pcm_s24le' }, 'mov', false)).toEqual(['-c:a', 'copy']);
  expect(soundCodec({ ...aac, codec: 'vorbis' }, 'mp4', true)).toContain('aac');
});

test('sound in long packets begins with the picture in a part of a clip', async () => {
  const from = make(
    file('long.mkv'),
    PICTURES,
    [...PICTURES_CODED, '-c:a', 'flac'],
    ['-f', 'lavfi', '-i', "aevalsrc='0.5*sin(2*PI*1000*t)*gt(t,0.5)':s=48000:d=1"],
  );
  await deliver(from, file('long part.mkv'), { codec: 'ffv1', quality: 18 }, { inFrame: 7, outFrame: 21 });
  const samples = samplesOf(file('long part.mkv'));
  const rate = (await probe(from)).facts.frameRate;
  const begins = samples.findIndex((v) => Math.abs(v) > 4000) / 48_000;
  expect(Math.abs(begins - (0.5 - (7 * rate.den) / rate.num))).toBeLessThan(0.003);
});

describe('a clip with three sound tracks', () => {
  const TONES = [400, 800, 1200];
  let from: string;
  beforeAll(() => {
    const tones = TONES.flatMap((f) => ['-f', 'lavfi', '-i', `sine=frequency=${f}:sample_rate=48000:duration=1`]);
    const maps = [0, 1, 2, 3].flatMap((k) => ['-map', k === 0 ? '0:v' : `${k}:a`]);
    const coded = ['-c:a:0', 'aac', '-c:a:1', 'pcm_s24le', '-c:a:2', 'flac', '-metadata:s:a:1', 'language=nor'];
    from = make(file('tracks.mkv'), PICTURES, [...maps, ...PICTURES_CODED, ...coded], tones);
  });

  test.each([
    ['mp4', 'h264', ['aac', 'aac', 'aac']],
    ['mov', 'vc3', ['aac', 'pcm_s24le', 'pcm_s16le']],
    ['mkv', 'ffv1', ['aac', 'pcm_s24le', 'flac']],
  ] as const)('each is in an export to %s, with its own sound and language', async (ending, codec, codecs) => {
    const to = file(`tracks out.${ending}`);
    await deliver(from, to, { codec, quality: 30 }, { inFrame: 4, outFrame: 21 });
    expect(audioTracks((await probe(to)).facts).map((t) => t.codec)).toEqual(codecs);
    TONES.forEach((f, k) => expect(Math.abs(toneOf(to, k) - f)).toBeLessThan(6));
    const asked = ['-select_streams', 'a:1', '-show_entries', 'stream_tags=language', '-of', 'csv=p=0', to];
    expect(
      execFileSync('ffprobe', ['-v', 'error', ...asked])
        .toString()
        .trim(),
    ).toBe('nor');
  });

  test('slowed, each follows at its own pitch', async () => {
    const to = file('slow.mov');
    await deliver(from, to, { codec: 'vc3', quality: 30 }, { factor: 0.5 });
    TONES.forEach((f, k) => {
      expect(Math.abs(samplesOf(to, k).length / 48_000 - 2)).toBeLessThan(0.1);
      expect(Math.abs(toneOf(to, k) - f)).toBeLessThan(0.02 * f);
    });
  });
});
