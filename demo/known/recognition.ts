import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { downsample } from '@inkavo/core/fields/smallPicture';
import type { Profile } from '@inkavo/core/model/profile';
import { gridOf } from '@inkavo/core/reading/grid';
import { recogniseProfile, sightOf, type Sight } from '@inkavo/core/reading/recognise';
import { logProfile } from '@inkavo/core/reading/unknownCurves';
import { probe } from '@inkavo/media/codec';
import { clipFrames } from '@inkavo/media/reading/clipFrames';
import { ASKED, drawScene, recorder } from './learn/profileCases';
import { fetchPhotographs, type Part } from './photographs';
import { isProgram } from './ownProcess';
import { random, type Random } from './random';

const [WIDTH, HEIGHT] = [480, 270];
const TAGS: Partial<Record<Profile['transfer']['kind'], string>> = { hlg: 'arib-std-b67', pq: 'smpte2084' };

/**
 * The eight profiles to distinguish: the built-in ones and three custom ones. Log curves within half a stop of each
 * other cannot be distinguished: such clips are asked about.
 */
export const EIGHT: readonly Profile[] = [
  ...ASKED,
  logProfile('Own, low', [0.03, 0.3, 0.45], 'p3d65'),
  logProfile('Own, high', [0.2, 0.5, 0.68], 'bt2020'),
  logProfile('Own, steep', [0.06, 0.42, 0.86], 'bt709'),
];

/** A short clip of a photograph as recorded by a camera, including noise and codec. */
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
  of: number;
  /** Numbers of clips: likeliest profile right; used without asking and right, wrong; asked about. */
  first: number;
  right: number;
  wrong: number;
  asked: number;
}

/** A made clip with its evidence. */
interface Seen {
  profile: Profile;
  sight: Sight;
  tag: string | null;
}

/** Makes and reads clips through the real decoder, equally many of each profile. */
async function seeClips(
  part: Part,
  count: number,
  from: number,
  profileOf: (i: number) => Profile = (i) => EIGHT[i % EIGHT.length],
): Promise<Seen[]> {
  const folder = mkdtempSync(join(tmpdir(), 'recognition-'));
  try {
    const seen: Seen[] = [];
    for (let i = 0; i < count; i += 1) {
      const profile = profileOf(i);
      const path = join(folder, 'clip.mp4');
      makeClip(path, profile, part, random(from + i));
      const { facts, times } = await probe(path);
      const pictures = await clipFrames({ path, facts, times }, { inFrame: 0, outFrame: 2, count: 3 });
      const sight = sightOf(
        pictures.map((p) => gridOf(downsample(p.picture))),
        facts.depth,
      );
      seen.push({ profile, sight, tag: facts.tags.transfer });
    }
    return seen;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Recognises each clip, with the others of its camera from `otherClipsOf`, and prints the results. */
function tell(words: string, all: readonly Seen[], otherClipsOf: (i: number) => readonly Seen[]): void {
  const tallies = new Map(
    EIGHT.map((p): [string, Tally] => [p.name, { of: 0, first: 0, right: 0, wrong: 0, asked: 0 }]),
  );
  const mistakes: string[] = [];
  all.forEach(({ profile, sight, tag }, i) => {
    const otherClips = otherClipsOf(i).map((f) => f.sight);
    const { ranked, sure } = recogniseProfile(sight, EIGHT, tag, otherClips);
    const hit = ranked[0].profile === profile;
    const tally = tallies.get(profile.name)!;
    tally.of += 1;
    if (hit) tally.first += 1;
    if (!sure) tally.asked += 1;
    else if (hit) tally.right += 1;
    else {
      tally.wrong += 1;
      mistakes.push(`${profile.name} as ${ranked[0].profile.name}`);
    }
  });
  console.log(words);
  for (const [name, t] of tallies)
    console.log(
      `  ${name.padEnd(24)} first ${t.first} of ${t.of}; taken and right ${t.right}, asked ${t.asked}, wrong ${t.wrong}`,
    );
  const share = (key: keyof Tally): string =>
    ((100 * [...tallies.values()].reduce((n, t) => n + t[key], 0)) / all.length).toFixed(1);
  console.log(`  in all: first guess right ${share('first')} %, asked ${share('asked')} %, wrong ${share('wrong')} %`);
  if (mistakes.length) console.log(`  ${mistakes.join(', ')}`);
}

/**
 * Recognises profiles of made clips: each alone, with other clips of its camera recorded alike, and with others
 * recorded differently, which must not mislead.
 */
export async function measureRecognition(part: Part, count: number, from: number): Promise<void> {
  fetchPhotographs();
  const all = await seeClips(part, count, from);
  /** This many of the next clips of a profile with the same tag and depth. */
  const next = (i: number, profile: Profile, most: number): Seen[] =>
    [...all.slice(i + 1), ...all.slice(0, i)]
      .filter((s) => s.profile === profile && s.tag === all[i].tag && s.sight.depth === all[i].sight.depth)
      .slice(0, most);
  tell(`${part}, ${count} clips, each by itself`, all, () => []);
  for (const most of [1, 2, 4])
    tell(`with ${most} of its camera, recorded alike`, all, (i) => next(i, all[i].profile, most));
  tell('with four of its camera, two of them recorded otherwise', all, (i) => [
    ...next(i, all[i].profile, 2),
    ...next(i, EIGHT[(i + 3) % EIGHT.length], 2),
  ]);
  tell('with two of its camera, both recorded otherwise', all, (i) => next(i, EIGHT[(i + 3) % EIGHT.length], 2));
}

/** Clips of curves without a known profile, this many of each. */
const OF_A_CURVE = 4;

/** How often clips of unknown curves are confidently taken for a known profile, alone and together. */
export async function measureUnknown(part: Part, count: number, from: number): Promise<void> {
  fetchPhotographs();
  const curves = Array.from({ length: Math.ceil(count / OF_A_CURVE) }, (_, k) => {
    const rng = random(from + 7919 * (k + 1));
    const black = rng.between(0.04, 0.2);
    const grey = black + rng.between(0.2, 0.3);
    return logProfile('Unknown', [black, grey, Math.min(0.92, grey + rng.between(0.16, 0.4))], 'bt709');
  });
  const all = await seeClips(part, count, from, (i) => curves[i % curves.length]);
  const sure = (otherClipsOf: (i: number) => Seen[]): number =>
    all.filter(({ sight, tag }, i) => {
      const { ranked, sure: taken } = recogniseProfile(
        sight,
        ASKED,
        tag,
        otherClipsOf(i).map((f) => f.sight),
      );
      return taken && ranked[0].profile.name !== 'Standard video';
    }).length;
  const alike = (i: number): Seen[] =>
    all.filter((s, k) => k !== i && s.profile === all[i].profile && s.sight.depth === all[i].sight.depth);
  console.log(
    `${count} clips of curves nobody has a profile of: surely taken for a known profile ${sure(() => [])} by themselves, ${sure(alike)} with others of the camera`,
  );
}

if (isProgram('recognition'))
  void (async () => {
    const [part, count, from] = [
      (process.argv[2] ?? 'aside') as Part,
      Number(process.argv[3] ?? 240),
      Number(process.argv[4] ?? 50_000),
    ];
    await measureRecognition(part, count, from);
    await measureUnknown(part, Math.ceil(count / 2), from);
  })();
