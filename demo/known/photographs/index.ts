import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { repositoryRoot } from '@inkavo/media/root';
import places from './places.json';

/**
 * Outdoor photographs for measuring corrections. They come from Debian packages, which are downloaded by name when
 * needed, verified by digest and unpacked without being installed; none is in the repository.
 */
interface Package {
  name: string;
  version: string;
  sha256: string;
  licence: string;
}

const PACKAGES = {
  landscapes: {
    name: 'mate-backgrounds',
    version: '1.26.0-1',
    sha256: '7bf4c2209f34b4f61ba6d24c8b58c28b361e82e4b943aae6d42c030169af9e04',
    licence: 'GPL-2+, CC-BY-SA-3.0',
  },
  nature: {
    name: 'lomiri-wallpapers-16.04',
    version: '20.04.0-2',
    sha256: 'a99ff6a3bfe451e4cc0682ecb3cc82e71740626d59e4845ae34a0a0e45421eab',
    licence: 'CC-BY-4.0, CC-BY-SA-4.0',
  },
  places: {
    name: 'gcompris-qt-data',
    version: '3.1-2',
    sha256: 'e9cf06ab2105529068df73085784e835d2ff03f870d2a8091f09125d40abac9f',
    licence: 'CC0-1.0, CC-BY-2.0 to 3.0, CC-BY-SA-2.0 to 4.0, public domain, GPL-3+',
  },
  lands: {
    name: 'endless-sky-data',
    version: '0.9.8-1.2',
    sha256: 'e45835e05a11e84bb1a890a0ded390246a53b8318f21a25925aa70fa54f80c13',
    licence: 'CC0-1.0, CC-BY-3.0, CC-BY-4.0, CC-BY-SA-3.0, CC-BY-SA-4.0, public domain',
  },
  backdrops: {
    name: 'scratch',
    version: '1.4.0.6~dfsg1-6.1',
    sha256: '36c582eb93110f64f06c4e685c41e933ccba2fa68db12f79b10bfe840b21fc10',
    licence: 'CC-BY-SA-3.0',
  },
  sheets: {
    name: 'tuxpaint-data',
    version: '1:0.9.28-sdl2-1',
    sha256: 'f5d0de8f9a70d2efc1241d19f26168cb8bf279f1b77abd3631e7a1a55c40e5e5',
    licence: 'GPL-2+',
  },
} satisfies Record<string, Package>;

/**
 * For development, or kept aside: not used in training. `validation`: not used in training either, but constants may be
 * chosen on it. `fresh`: added after all training; for evaluation only.
 */
export type Part = 'develop' | 'validation' | 'aside' | 'fresh';

interface Photograph {
  id: string;
  part: Part;
  /** Taken under water: correctness of the white is unknown. */
  dive?: boolean;
  package: keyof typeof PACKAGES;
  /** Prefix of the file's path, or the folder with the file's number in its name. */
  file: string;
  index?: number;
  /** For a picture inside a resource file: its offset in bytes. */
  at?: readonly [offset: number, bytes: number];
}

const landscape = (name: string, part: Part): Photograph => ({
  id: name.toLowerCase(),
  part,
  package: 'landscapes',
  file: `usr/share/backgrounds/mate/nature/${name}.jpg`,
});
const nature = (name: string, part: Part): Photograph => ({
  id: name.toLowerCase(),
  part,
  package: 'nature',
  file: `usr/share/backgrounds/${name}_`,
});

/** Every third of the photographs inside resource files is kept aside. */
const inside = Object.entries(places.resources as unknown as Record<string, [number, number][]>)
  .flatMap(([resource, list]) => list.map((at) => ({ resource, at })))
  .map(({ resource, at }, i): Photograph => ({
    id: `places-${i}`,
    part: i % 3 === 2 ? 'aside' : 'develop',
    package: 'places',
    dive: resource === 'erase.rcc',
    file: `usr/share/gcompris-qt/rcc/${resource}`,
    at,
  }));

const lands = places.lands.map((index, i): Photograph => ({
  id: `lands-${index}`,
  part: i % 3 === 1 ? 'aside' : 'develop',
  package: 'lands',
  file: 'usr/share/games/endless-sky/images/land',
  index,
}));

/** Backgrounds of nature and of places outdoors, except the drawn moon. */
const backdrops = (
  [
    ['Nature', 15],
    ['Outdoors', 30],
  ] as const
).flatMap(([folder, count]) =>
  Array.from({ length: count }, (_, index): Photograph => ({
    id: `${folder.toLowerCase()}-${index}`,
    part: 'fresh',
    package: 'backdrops',
    file: `usr/share/scratch/Media/Backgrounds/${folder}`,
    index,
  })).filter(({ id }) => id !== 'nature-9'),
);

/** Outdoor photographs that a painting program's pages begin with. */
const sheets = [
  ...['burnt_bark', 'cliff', 'corn_maze', 'lighthouse', 'mossy_bark', 'mossy_log', 'mudstone', 'ocean_splash'],
  ...['ocean_waves', 'redwoods_above', 'sheep', 'spiders_web', 'sun_behind_clouds', 'sun_behind_leaves'],
  ...['trees_above', 'trees_at_dusk'],
].map((name): Photograph => ({
  id: name.replaceAll('_', '-'),
  part: 'validation',
  package: 'sheets',
  file: `usr/share/tuxpaint/templates/${name}.`,
}));

export const PHOTOGRAPHS: readonly Photograph[] = [
  landscape('Dune', 'develop'),
  landscape('GreenMeadow', 'develop'),
  landscape('Storm', 'develop'),
  landscape('Garden', 'aside'),
  landscape('TwoWings', 'aside'),
  landscape('YellowFlower', 'aside'),
  nature('aitzgorri', 'develop'),
  nature('friends', 'develop'),
  nature('sunset', 'aside'),
  nature('Picture_0B', 'aside'),
  ...inside,
  ...lands,
  ...backdrops,
  ...sheets,
];

/** Size to which photographs are cropped: slightly more than a known picture, so that the camera can pan. */
export const PHOTOGRAPH_WIDTH = 424;
export const PHOTOGRAPH_HEIGHT = 238;

const CACHE = process.env.INKAVO_PHOTOGRAPHS ?? join(repositoryRoot(), 'demo/known/photographs/cache');

function unpack(key: keyof typeof PACKAGES, into: string): void {
  const { name, version, sha256 } = PACKAGES[key];
  const download = (): void =>
    void execFileSync('apt-get', ['download', '-qq', `${name}=${version}`], {
      cwd: into,
      stdio: ['ignore', 'ignore', 'pipe'],
    });
  try {
    download();
  } catch {
    // A fresh machine has no package lists yet.
    const update = ['apt-get', 'update', '-qq'];
    const [command, ...args] = process.getuid?.() === 0 ? update : ['sudo', ...update];
    execFileSync(command, args, { stdio: ['ignore', 'ignore', 'pipe'] });
    download();
  }
  const deb = readdirSync(into).find((f) => f.startsWith(`${name}_`) && f.endsWith('.deb'))!;
  const found = createHash('sha256')
    .update(readFileSync(join(into, deb)))
    .digest('hex');
  if (found !== sha256) throw new Error(`Package ${name} ${version} has digest ${found}, not ${sha256}.`);
  execFileSync('dpkg-deb', ['-x', join(into, deb), join(into, key)]);
}

function decode(photograph: Photograph, root: string, to: string): void {
  const { index, file: name } = photograph;
  const folder = index === undefined ? join(root, name, '..') : join(root, name);
  const files = readdirSync(folder)
    .filter((f) => (index === undefined ? join(folder, f).startsWith(join(root, name)) : f.endsWith('.jpg')))
    .sort();
  let path = join(folder, files[index ?? 0]);
  if (photograph.at) {
    const [offset, bytes] = photograph.at;
    const picture = join(root, '..', 'picture');
    writeFileSync(picture, readFileSync(path).subarray(offset, offset + bytes));
    path = picture;
  }
  const size = `${PHOTOGRAPH_WIDTH}:${PHOTOGRAPH_HEIGHT}`;
  const raw = execFileSync('ffmpeg', [
    ...['-v', 'error', '-i', path, '-frames:v', '1'],
    ...['-vf', `scale=${size}:force_original_aspect_ratio=increase:flags=area,crop=${size},format=rgb24`],
    ...['-f', 'rawvideo', '-'],
  ]);
  writeFileSync(`${to}.part`, raw);
  renameSync(`${to}.part`, to);
}

/**
 * Downloads and decodes the photographs of some parts that are missing in the cache. Needs Debian's package archive the
 * first time.
 */
export function fetchPhotographs(parts: readonly Part[] = ['develop', 'aside']): void {
  mkdirSync(CACHE, { recursive: true });
  const missing = PHOTOGRAPHS.filter((p) => parts.includes(p.part) && !existsSync(join(CACHE, `${p.id}.rgb`)));
  if (missing.length === 0) return;
  const work = mkdtempSync(join(tmpdir(), 'photographs-'));
  try {
    for (const key of new Set(missing.map((p) => p.package))) unpack(key, work);
    for (const p of missing) decode(p, join(work, p.package), join(CACHE, `${p.id}.rgb`));
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

/** A photograph's pixels, 8-bit sRGB, {@link PHOTOGRAPH_WIDTH} × {@link PHOTOGRAPH_HEIGHT} × 3. */
export const photographPixels = (id: string): Uint8Array => readFileSync(join(CACHE, `${id}.rgb`));

if (require.main === module) fetchPhotographs();
