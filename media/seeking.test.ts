import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { exportClip } from './export/exportClip';
import { decodingKeyframe, KEYFRAMES_ONLY } from './frames/keyframes';
import { decodeFrame } from './frames/rest';
import { lumaFrames } from './reading/lumaFrames';
import { make, sourceOf, workFolder } from './testClips';

const folder = workFolder();
const [WIDTH, HEIGHT, FRAMES, RATE] = [320, 180, 60, 25];
/** Frame n has luma 30 + 3 n everywhere. */
const NUMBERED = `color=gray:size=${WIDTH}x${HEIGHT}:rate=${RATE}:duration=${FRAMES / RATE},format=yuv420p,geq=lum='30+3*N':cb=128:cr=128`;
/** On either side of two keyframes, and at both ends. */
const SOUGHT = [0, 1, 9, 10, 11, 12, 13, 22, 23, 24, 25, 46, 59];
const numberOf = (luma: number): number => (luma - 30) / 3;
/** A tone that begins after a second. */
const TONE = ['-f', 'lavfi', '-i', `aevalsrc='0.5*sin(2*PI*1000*t)*gt(t,1)':s=48000:d=${FRAMES / RATE}`];
const BOTH = ['-map', '0:v', '-map', '1:a'];

/** B-frames, and open groups of pictures. */
const X264 = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '4', '-g', '12', '-x264-params', 'open-gop=1'];
const MPEG2 = ['-c:v', 'mpeg2video', '-q:v', '1', '-g', '12', '-bf', '2'];
interface Made {
  args: string[];
  tone?: boolean;
  /** Frames trimmed from its beginning without re-encoding, as phones do: they stay in the file. */
  cut?: number;
}
const MADE: Record<string, Made> = {
  'plain.mp4': { args: X264, tone: true },
  'fragments.mp4': { args: [...X264, '-movflags', 'frag_keyframe+empty_moov'], tone: true },
  'plain.mov': { args: X264 },
  'cut.mp4': { args: X264, tone: true, cut: 8 },
  'plain.mkv': { args: X264 },
  'cut off.mkv': { args: [...X264, '-live', '1'] },
  'card.mts': { args: [...X264, '-c:a', 'ac3'], tone: true },
  'stream.ts': { args: ['-c:v', 'libx265', '-x265-params', 'log-level=error:keyint=12:crf=4'] },
  'discs.mpg': { args: MPEG2, tone: true },
  'studio.mxf': { args: MPEG2 },
  'reordered.avi': { args: ['-c:v', 'mpeg4', '-q:v', '1', '-bf', '2', '-g', '12'], tone: true },
  'newer.avi': { args: X264 },
};

function made(name: string, { args, tone, cut = 0 }: Made): string {
  const path = make(join(folder, name), NUMBERED, tone ? [...args, ...BOTH] : args, tone ? TONE : []);
  if (cut === 0) return path;
  const shorter = join(folder, `shorter ${name}`);
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-ss', String(cut / RATE), '-i', path, '-c', 'copy', shorter]);
  return shorter;
}

describe.each(Object.entries(MADE))('%s', (name, how) => {
  const path = made(name, how);
  const { tone, cut = 0 } = how;
  const sought = SOUGHT.filter((n) => n < FRAMES - cut);

  test('every frame that is sought is the right one', async () => {
    const source = await sourceOf(path);
    expect(source.facts).toMatchObject({ frames: FRAMES - cut, variableRate: false });
    const found: number[] = [];
    for (const n of sought) {
      const { y } = await decodeFrame(source, n);
      found.push(Math.round(numberOf(y[20 * WIDTH + 30])));
    }
    expect(found).toEqual(sought.map((n) => n + cut));
    const followed = await lumaFrames(source, { first: 31, last: 33 });
    const at = (k: number): number => Math.round(numberOf(followed.luma[k * followed.width * followed.height + 900]));
    expect([0, 1, 2].map(at)).toEqual([31, 32, 33].map((n) => n + cut));
  });

  test('each keyframe that is decoded by itself is the right one, or none', async () => {
    const source = await sourceOf(path);
    const keys = [0, 2, -1].map((k) => source.keys!.at(k)!);
    const numbers = keys.map((key) => {
      const { seek, filters } = decodingKeyframe(source, key);
      const input = [...KEYFRAMES_ONLY, ...seek, '-i', path, '-map', '0:v:0', '-vf', filters.join(',')];
      const raw = execFileSync('ffmpeg', ['-v', 'error', ...input, '-frames:v', '1', '-f', 'rawvideo', '-']);
      return raw.length ? Math.round(numberOf(raw[20 * WIDTH + 30])) - cut : null;
    });
    numbers.forEach((number, k) => expect([keys[k], null]).toContain(number));
    // Frames that are not output are decoded together with those before them.
    if (!cut && /mp4|mov|mkv|ts$/.test(name)) expect(numbers).not.toContain(null);
  });

  test('an export of a part has its frames, and its sound in its place', async () => {
    const source = await sourceOf(path);
    const output = join(folder, `${name}.out.mkv`);
    const delivery = { codec: 'ffv1', quality: 18 } as const;
    await exportClip({ source, steps: [], delivery, inFrame: 17, outFrame: 40, output });
    const delivered = await sourceOf(output);
    expect(delivered.facts.frames).toBe(24);
    for (const n of [0, 11, 23]) {
      const { y } = await decodeFrame(delivered, n);
      expect(Math.round(numberOf(y[20 * WIDTH + 30]))).toBe(17 + n + cut);
    }
    if (!tone) return;
    const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', output, '-ac', '1', '-ar', '48000', '-f', 's16le', '-']);
    const samples = new Int16Array(new Uint8Array(raw).buffer);
    const begins = samples.findIndex((v) => Math.abs(v) > 4000) / 48000;
    // Within half a frame: some containers round their time stamps, and sound is stored in packets.
    expect(Math.abs(begins - (1 - (17 + cut) / RATE))).toBeLessThan(0.5 / RATE);
  });
});
