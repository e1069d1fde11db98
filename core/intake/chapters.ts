import type { CardFile } from '../model/source';

/** Tolerance in seconds: creation times are whole seconds, and a camera needs a moment between two files. */
const TOLERANCE_SECONDS = 2;
/**
 * Cameras start a new chapter when a file reaches its maximum size; all but the last chapter have that size, within
 * this share.
 */
const FULL_SHARE = 0.02;

/** Splits a name into digit runs and the text between them: "clip_010023.mp4" is ["clip_", "010023", ".mp4"]. */
const runs = (name: string): string[] => name.split(/(\d+)/);

/**
 * Whether one name follows another: they differ in one run of digits, by one. Cameras write the two-digit chapter
 * number before or after that of the recording (common practice); so a run may also increase by a power of ten.
 */
export function countsOn(a: string, b: string): boolean {
  const [from, to] = [runs(a), runs(b)];
  if (from.length !== to.length) return false;
  const changed = from.flatMap((part, i) => (part === to[i] ? [] : [i]));
  if (changed.length !== 1) return false;
  const [x, y] = [from[changed[0]], to[changed[0]]];
  if (!/^\d+$/.test(x) || x.length !== y.length) return false;
  const step = Number(y) - Number(x);
  // Six or more digits hold two numbers, the chapter's first.
  return step === 1 || (x.length >= 6 && step === 10 ** (x.length - 2)) || (x.length >= 6 && step === 10_000);
}

/** Headers round frame counts and durations, so the rates of chapters of one recording may differ by this share. */
const SAME_RATE = 0.002;

const sameFormat = ({ header: a }: CardFile, { header: b }: CardFile): boolean =>
  a !== null &&
  b !== null &&
  Math.abs(a.fps - b.fps) <= a.fps * SAME_RATE &&
  (['codec', 'width', 'height', 'rotation', 'depth', 'sound'] as const).every((k) => a[k] === b[k]);

/**
 * Whether b begins where a ends, by their creation times, which may be those of the start, of the end, or of the whole
 * recording.
 */
function followsInTime(first: CardFile, a: CardFile, b: CardFile): boolean {
  const [from, to] = [Date.parse(a.header!.recordedAt ?? ''), Date.parse(b.header!.recordedAt ?? '')];
  if (!Number.isFinite(from) || !Number.isFinite(to)) return false;
  const apart = (to - from) / 1000;
  const near = (seconds: number): boolean => Math.abs(apart - seconds) <= TOLERANCE_SECONDS;
  const start = first.header!.recordedAt === b.header!.recordedAt;
  return near(a.header!.seconds) || near(b.header!.seconds) || start;
}

/**
 * Groups the files of one camera into recordings: the chapters of a long recording in order; every other file by
 * itself. Chapters share folder and format, have consecutive names and times, and all but the last have the maximum
 * size.
 */
export function recordings(files: readonly CardFile[]): CardFile[][] {
  const order = [...files].sort((a, b) => a.path.localeCompare(b.path, 'en', { numeric: true }));
  const largest = Math.max(0, ...files.map((f) => f.bytes));
  const left = new Set(order);
  const found: CardFile[][] = [];
  for (const first of order) {
    if (!left.delete(first)) continue;
    const chapters = [first];
    for (;;) {
      const last = chapters[chapters.length - 1];
      const full = last.bytes >= chapters[0].bytes * (1 - FULL_SHARE) && last.bytes >= largest * (1 - FULL_SHARE);
      const next = [...left].find(
        (f) =>
          full &&
          f.folder === first.folder &&
          f.bytes <= last.bytes * (1 + FULL_SHARE) &&
          sameFormat(last, f) &&
          countsOn(last.name, f.name) &&
          followsInTime(first, last, f),
      );
      if (!next) break;
      left.delete(next);
      chapters.push(next);
    }
    found.push(chapters);
  }
  return found;
}
