import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import type { Arrangement } from '../../state/arrangement';
import { holdsWords } from '../../ui/holdsWords';

/** Clips of one camera side by side in a row; `heading` is shown above the first row of a camera. */
export interface Segment {
  camera: Camera | null;
  heading: boolean;
  clips: ListedClip[];
}
export type Row = Segment[];

/** The clips that match search and filter, in order. */
export function filtered(
  clips: readonly ListedClip[],
  cameras: readonly Camera[],
  { state, search }: Pick<Arrangement, 'state' | 'search'>,
): ListedClip[] {
  const names = new Map(cameras.map((c) => [c.id, c.name]));
  return clips.filter(
    (clip) =>
      (state === null || clip.state === state) && holdsWords(`${clip.name} ${names.get(clip.cameraId) ?? ''}`, search),
  );
}

const cut = <T>(list: readonly T[], size: number): T[][] =>
  Array.from({ length: Math.ceil(list.length / size) }, (_, i) => list.slice(i * size, (i + 1) * size));

/**
 * Rows of tiles in this many columns. By camera, each camera begins with a heading; small groups share a row if they
 * fit.
 */
export function rowsOf(
  clips: readonly ListedClip[],
  cameras: readonly Camera[],
  by: Arrangement['by'],
  columns: number,
): Row[] {
  if (by === 'order') return cut(clips, columns).map((part) => [{ camera: null, heading: false, clips: part }]);
  const rows: Row[] = [];
  let room = 0;
  for (const camera of cameras) {
    const own = clips.filter((c) => c.cameraId === camera.id);
    if (own.length === 0) continue;
    if (own.length <= room) {
      rows[rows.length - 1].push({ camera, heading: true, clips: own });
      room -= own.length;
      continue;
    }
    cut(own, columns).forEach((part, i) => rows.push([{ camera, heading: i === 0, clips: part }]));
    room = own.length <= columns ? columns - own.length : 0;
  }
  return rows;
}

/** Everything between two clips of a list, inclusive, in either direction. */
export function between(clips: readonly ListedClip[], from: string, to: string): string[] {
  const [a, b] = [from, to].map((id) => clips.findIndex((c) => c.id === id));
  if (a < 0 || b < 0) return [to];
  return clips.slice(Math.min(a, b), Math.max(a, b) + 1).map((c) => c.id);
}
