import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { shrink } from '@inkavo/core/fields/smallPicture';
import { STANDARD, type Profile } from '@inkavo/core/model/profile';
import { gridOf } from '@inkavo/core/reading/grid';
import { recogniseProfile, sightOf } from '@inkavo/core/reading/recognise';
import { logProfile } from '@inkavo/core/reading/unknownCurves';
import { probe } from '@inkavo/media/codec';
import { clipFrames } from '@inkavo/media/reading/clipFrames';
import { ASKED, drawScene, recorder } from './learn/profileCases';
import { fetchPhotographs, type Part } from './photographs';
import { random, type Random } from './random';

const [WIDTH, HEIGHT] = [480, 270];
const TAGS: Partial<Record<Profile['transfer']['kind'], string>> = { hlg: 'arib-std-b67', pq: 'smpte2084' };

/**
 * The eight that are told apart: those that come with the application, and three of one's own. Log curves that lie within
 * half a stop of each other cannot be: such clips are asked about.
 */
export const EIGHT: readonly Profile[] = [
  ...ASKED,
  logProfile('Own, low', [0.03, 0.3, 0.45], 'p3d65'),
  logProfile('Own, high', [0.2, 0.5, 0.68], 'bt2020'),
  logProfile('Own, steep', [0.06, 0.42, 0.86], 'bt709'),
];

/** A short clip of a photograph as a camera records it, noise and codec included. */
function makeClip(path: string, profile: Profile, part: Part, rng: Random): void {
  const { light } = drawScene(rng, part, WIDTH, HEIGHT);
  const record = recorder(profile, rng);
  const noise = rng.scaled(0.002, 0.02);
  const frames = 3;
  const raw = new Uint16Array(frames * light.length);
  const rgb: Vec3 = [0, 0, 0];
  for (let f = 0; f < frames; f += 1)
    for (let o = 0; o < light.length; o += 3) {
      for (let c = 0; c < 3; c += 1) {
        const v = light[o + c];
        rgb[c] = v + rng.normal(noise * Math.sqrt(Math.max(0, v)) + 0.1 * noise);
      }
      record(rgb);
      for (let c = 0; c < 3; c += 1)
        raw[f * light.length + o + c] = Math.round(65535 * Math.min(1, Math.max(0, rgb[c])));
    }
  const ten = rng.chance(0.5);
  const codec = rng.chance(0.5) && !ten ? 'libx264' : 'libx265';
  const input = ['-f', 'rawvideo', '-pix_fmt', 'rgb48le', '-s', `${WIDTH}x${HEIGHT}`, '-r', '25', '-i', '-'];
  const trc = TAGS[profile.transfer.kind] ?? 'bt709';
  execFileSync(
    'ffmpeg',
    [
      ...['-v', 'error', '-y', ...input],
      ...['-vf', `scale=out_color_matrix=bt709:out_range=tv,format=${ten ? 'yuv420p10le' : 'yuv420p'}`],
      ...['-c:v', codec, '-crf', String(Math.round(rng.between(16, 28))), '-preset', 'ultrafast'],
      ...(codec === 'libx265' ? ['-x265-params', 'log-level=none'] : []),
      ...['-color_trc', trc, '-colorspace', 'bt709', path],
    ],
    { input: Buffer.from(raw.buffer), stdio: ['pipe', 'ignore', 'ignore'] },
  );
}

interface Tally {
  right: number;
  unsure: number;
  wrong: number;
}

/** Makes clips, recognises their profiles through the real decoder, and prints how often that was right. */
export async function measureRecognition(part: Part, count: number, from: number): Promise<void> {
  fetchPhotographs();
  const folder = mkdtempSync(join(tmpdir(), 'recognition-'));
  const tallies = new Map<string, Tally & { first: number; of: number }>();
  const mistakes: string[] = [];
  try {
    for (let i = 0; i < count; i += 1) {
      const rng = random(from + i);
      const profile = EIGHT[i % EIGHT.length];
      const path = join(folder, 'clip.mp4');
      makeClip(path, profile, part, rng);
      const { facts, times } = await probe(path);
      const pictures = await clipFrames({ path, facts, times }, { inFrame: 0, outFrame: 2, count: 3 });
      const sight = sightOf(
        pictures.map((p) => gridOf(shrink(p.picture))),
        facts.depth,
      );
      const { ranked, sure } = recogniseProfile(sight, EIGHT, facts.tags.transfer);
      const tally = tallies.get(profile.name) ?? { right: 0, unsure: 0, wrong: 0, first: 0, of: 0 };
      const hit = ranked[0].profile === profile;
      tally.of += 1;
      tally.first += hit ? 1 : 0;
      tally.right += hit && sure ? 1 : 0;
      tally.unsure += sure ? 0 : 1;
      tally.wrong += sure && !hit ? 1 : 0;
      if (sure && !hit) mistakes.push(`${profile.name} as ${ranked[0].profile.name}`);
      tallies.set(profile.name, tally);
    }
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  const sum = (key: keyof Tally | 'first'): number => [...tallies.values()].reduce((n, t) => n + t[key], 0);
  for (const [name, t] of tallies)
    console.log(
      `${name.padEnd(24)} first ${t.first} of ${t.of}; taken and right ${t.right}, asked ${t.unsure}, wrong ${t.wrong}`,
    );
  const plain = tallies.get(STANDARD.name);
  console.log(
    `${part}, ${count} clips: first guess right ${((100 * sum('first')) / count).toFixed(1)} %, asked ${((100 * sum('unsure')) / count).toFixed(1)} %, wrong ${((100 * sum('wrong')) / count).toFixed(1)} %; standard taken for another ${plain?.wrong} of ${plain?.of}`,
  );
  if (mistakes.length) console.log(mistakes.join(', '));
}

if (require.main === module)
  void measureRecognition(
    (process.argv[2] ?? 'aside') as Part,
    Number(process.argv[3] ?? 240),
    Number(process.argv[4] ?? 50_000),
  );
