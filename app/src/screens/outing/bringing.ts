import type { Recording, DetectedCamera } from '@inkavo/core/model/source';
import type { ListedClip } from '@inkavo/core/model/outing';

/** Tolerance in seconds of the duration of joined chapters before the file is read. */
const SAME_LENGTH = 0.2;

/** Whether a recording seems to exist in an outing: by name, and size or, for several chapters, duration. */
export const isHere = (r: Recording, clips: readonly Pick<ListedClip, 'name' | 'bytes' | 'facts'>[]): boolean =>
  clips.some(
    (c) =>
      c.name === r.name &&
      (r.paths.length === 1
        ? c.bytes === r.bytes
        : r.seconds !== null && Math.abs(c.facts.durationSeconds - r.seconds) < SAME_LENGTH * r.paths.length),
  );

/** Moves a recording to another camera of the list; `to` may be one past the end: a new camera. */
export function moved(cameras: readonly DetectedCamera[], recording: Recording, to: number): DetectedCamera[] {
  const all = to < cameras.length ? [...cameras] : [...cameras, newCamera(cameras)];
  return all.map((camera, i) => {
    const others = camera.recordings.filter((r) => r !== recording);
    return { ...camera, recordings: i === to ? [...others, recording] : others };
  });
}

function newCamera(cameras: readonly DetectedCamera[]): DetectedCamera {
  const taken = new Set(cameras.map((c) => c.name));
  let n = cameras.length + 1;
  while (taken.has(`Camera ${n}`)) n += 1;
  return { name: `Camera ${n}`, kind: 'other', reason: 'chosen by hand', recordings: [] };
}

/** Separates falsely joined chapters: each file by itself. */
export const apart = (cameras: readonly DetectedCamera[], recording: Recording): DetectedCamera[] =>
  cameras.map((camera) => ({
    ...camera,
    recordings: camera.recordings.flatMap((r) =>
      r === recording ? r.paths.map((path) => chapterOf(recording, path)) : [r],
    ),
  }));

function chapterOf(recording: Recording, path: string): Recording {
  const n = recording.paths.length;
  const seconds = recording.seconds === null ? null : recording.seconds / n;
  return { ...recording, paths: [path], name: path.split('/').at(-1)!, bytes: recording.bytes / n, seconds };
}

/** Formats bytes: 12 kB, 64.2 MB, 640 MB, 4.2 GB. */
export function bytesText(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  if (bytes >= 1e5) return `${(bytes / 1e6).toFixed(bytes < 1e8 ? 1 : 0)} MB`;
  return `${Math.ceil(bytes / 1e3)} kB`;
}
