import type { CardFile, Recording, DetectedCamera } from '../model/source';
import { recordings } from './chapters';

/**
 * Folder names that do not identify a camera: those of the DCF standard (JEITA CP-3461: three digits, five characters)
 * and common ones.
 */
const GENERIC =
  /^(dcim|\d{3}[a-z0-9_]{5}|misc|private|m4root|avchd|bdmv|stream|clip|clips|video|videos|movie|movies|media|footage)$/i;

/** A camera's name from its folder on the card: HELMET_CAMERA is "Helmet camera". */
export function cameraName(folder: string): string {
  const words = folder.replace(/[_-]+/g, ' ').trim().toLowerCase().slice(0, 100);
  return words ? words[0].toUpperCase() + words.slice(1) : 'Camera';
}

/** Guesses the kind of a camera from its name. */
export function cameraKindOf(name: string): DetectedCamera['kind'] {
  if (/helmet|action|sport/i.test(name)) return 'action';
  if (/copter|drone|aerial/i.test(name)) return 'drone';
  if (/dive|water|housing/i.test(name)) return 'dive';
  return /phone/i.test(name) ? 'phone' : 'other';
}

/** Groups items by a key, in order of first occurrence. */
function groupBy<T>(things: readonly T[], key: (thing: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const thing of things) {
    const group = groups.get(key(thing));
    if (group) group.push(thing);
    else groups.set(key(thing), [thing]);
  }
  return groups;
}

/** The prefix before a clip's number. */
const prefixOf = (name: string): string => name.split(/\d/)[0].toLowerCase();

/**
 * Properties that all clips of a camera share in every mode: sizes and rates change, the codec and its depth rarely.
 */
const makeOf = (f: CardFile): string => (f.header ? `${f.header.codec}/${f.header.depth}` : '');

interface Group {
  name: string;
  reason: string;
  files: CardFile[];
}

/** Groups untagged files of a folder by name prefix, provided the prefixes have no format in common. */
function byKindOfFile(files: CardFile[]): CardFile[][] {
  const prefixes = [...groupBy(files, (f) => prefixOf(f.name)).values()];
  const groups: { files: CardFile[]; makes: Set<string> }[] = [];
  for (const own of prefixes) {
    const makes = new Set(own.map(makeOf).filter(Boolean));
    const met = groups.find((g) => makes.size === 0 || [...makes].some((m) => g.makes.has(m)));
    if (!met) groups.push({ files: own, makes });
    else {
      met.files.push(...own);
      makes.forEach((m) => met.makes.add(m));
    }
  }
  return groups.map((g) => g.files);
}

/** Groups files by camera: by their tags, else by folder, else by format. */
function groupsOf(files: readonly CardFile[]): Group[] {
  const tagged = groupBy(files, (f) => f.header?.camera ?? '');
  const untagged = tagged.get('') ?? [];
  tagged.delete('');
  const groups: Group[] = [...tagged].map(([name, own]) => ({ name, reason: 'by its tags', files: own }));
  const folders = groupBy(untagged, (f) => f.folders.findLast((name) => !GENERIC.test(name)) ?? '');
  for (const [folder, own] of folders) {
    const kinds = byKindOfFile(own);
    kinds.forEach((part, i) => {
      const base = cameraName(folder);
      groups.push({
        name: i === 0 ? base : `${base} ${i + 1}`,
        reason: kinds.length > 1 ? 'by its kind of file' : folder ? 'by its folder' : 'not told: nothing names it',
        files: part,
      });
    });
  }
  return groups;
}

/** Names that {@link groupsOf} gives to files without a tag or a folder. */
const UNNAMED = /^Camera( \d+)?$/;

/**
 * Names an unnamed camera after the only named one with the same clip prefix: files chosen on a device often come
 * without their folders.
 */
export function namedAsKnown(
  detected: readonly DetectedCamera[],
  known: readonly { name: string; camera: string }[],
): DetectedCamera[] {
  return detected.map((camera) => {
    if (!UNNAMED.test(camera.name)) return camera;
    const prefixes = new Set(camera.recordings.map((r) => prefixOf(r.name)));
    const alike = known.filter((k) => prefixOf(k.name) && prefixes.has(prefixOf(k.name))).map((k) => k.camera);
    const [name, ...others] = new Set(alike.filter(Boolean));
    return name && others.length === 0
      ? { ...camera, name, kind: cameraKindOf(name), reason: 'its clips are called alike' }
      : camera;
  });
}

const rate = (fps: number): string => fps.toFixed(2).replace(/\.?0+$/, '');

function recordingOf(chapters: CardFile[]): Recording {
  const { name, header } = chapters[0];
  const seconds = chapters.reduce((sum, c) => sum + (c.header?.seconds ?? 0), 0);
  return {
    paths: chapters.map((c) => c.path),
    name,
    bytes: chapters.reduce((sum, c) => sum + c.bytes, 0),
    seconds: header ? seconds : null,
    format: header ? `${header.width}×${header.height}, ${rate(header.fps)} fps, ${header.depth} bit` : '',
    problem: chapters.find((c) => c.problem)?.problem ?? null,
  };
}

/**
 * Proposes which camera each file of a card is from, and which files are chapters of one recording; a person confirms
 * it. Every file appears in exactly one recording.
 */
export function detectCameras(files: readonly CardFile[]): DetectedCamera[] {
  return groupsOf(files)
    .map(({ name, reason, files: own }) => ({
      name,
      reason,
      kind: cameraKindOf(name),
      recordings: recordings(own).map(recordingOf),
    }))
    .sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
}
