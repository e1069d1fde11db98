import { open, type FileHandle } from 'node:fs/promises';

/** Demuxers of containers without an index of keyframes; AVI has no presentation time stamps. */
const UNLISTED = ['mpegts', 'mpeg', 'avi'];
/** Where many presentation time stamps are missing, those after a seek are wrong: frames are counted from the first. */
const isCounted = (containers: readonly string[], codec: string): boolean =>
  containers.includes('mpeg') || (containers.includes('avi') && ['h264', 'hevc'].includes(codec));
/**
 * Maximum delay between decoding and presentation of a frame, in seconds: more than any camera's B-frame reordering.
 */
const REORDERED = 0.5;
/** Some containers round time stamps to milliseconds. */
const ROUNDED = 0.002;

/** A frame's presentation time in seconds, its decoding lead, and whether it is a keyframe. */
export interface Stamp {
  seconds: number;
  early: number;
  key: boolean;
}

/** Whether an ISO base media file (ISO/IEC 14496-12) is fragmented, with its index spread over the file. */
async function isFragmented(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const { size } = await file.stat();
    for (let at = 0; at + 8 <= size;) {
      const { kind, bytes } = await boxAt(file, at);
      if (kind === 'moof') return true;
      // The box extends to the end of the file, or is damaged: stop.
      if (bytes < 8) return false;
      at += bytes;
    }
    return false;
  } finally {
    await file.close();
  }
}

/** Type and length of the box at an offset; a length of 0 means up to the end of the file. */
async function boxAt(file: FileHandle, offset: number): Promise<{ kind: string; bytes: number }> {
  const head = Buffer.alloc(16);
  await file.read(head, 0, 16, offset);
  const short = head.readUInt32BE(0);
  return { kind: head.toString('latin1', 4, 8), bytes: short === 1 ? Number(head.readBigUInt64BE(8)) : short };
}

/** Whether there are open GOPs: leading frames, shown before a keyframe but decoded after it, need the previous GOP. */
function hasLeading(stamps: readonly Stamp[]): boolean {
  let key = -Infinity;
  return stamps.some((stamp) => {
    if (stamp.key) key = stamp.seconds;
    return stamp.seconds < key;
  });
}

/** Maximum distance of a frame from its preceding keyframe, in seconds. */
function farthestFromKey(shown: readonly Stamp[]): number {
  let [key, farthest] = [shown[0].seconds, 0];
  for (const stamp of shown) {
    farthest = Math.max(farthest, stamp.seconds - key);
    if (stamp.key) key = stamp.seconds;
  }
  return farthest;
}

/**
 * Seconds before a frame at which decoding must begin for an exact seek: 0 if the container has an index of keyframes
 * and all GOPs are closed. `format`: names of the demuxer; `stamps` in decoding order.
 */
export async function seekAhead(
  path: string,
  { format, codec }: { format: string; codec: string },
  stamps: readonly Stamp[],
): Promise<number> {
  const containers = format.split(',');
  const shown = [...stamps].sort((a, b) => a.seconds - b.seconds);
  if (isCounted(containers, codec)) return shown[shown.length - 1].seconds - shown[0].seconds + REORDERED;
  const unlisted = containers.some((name) => UNLISTED.includes(name));
  if (unlisted || (containers.includes('mp4') && (await isFragmented(path)))) return farthestFromKey(shown) + REORDERED;
  // Seeks use decoding times: starting this much earlier, the keyframe chosen is never after the frame.
  return hasLeading(stamps) ? stamps.reduce((most, s) => Math.max(most, s.early), 0) + ROUNDED : 0;
}
