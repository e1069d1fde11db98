import { open, type FileHandle } from 'node:fs/promises';

/** Containers without a list of where whole pictures lie, by the demuxer's name; or, in AVI, with one that knows no order of showing. */
const UNLISTED = ['mpegts', 'mpeg', 'avi'];
/** Where many time stamps are missing, those behind a place that was sought are guessed wrongly: frames are counted from the first. */
const isCounted = (containers: readonly string[], codec: string): boolean =>
  containers.includes('mpeg') || (containers.includes('avi') && ['h264', 'hevc'].includes(codec));
/** Between the order in which frames lie in a file and that in which they are shown, seconds: more than any camera's. */
const REORDERED = 0.5;
/** Time stamps are rounded to milliseconds in some containers. */
const ROUNDED = 0.002;

/** When a frame is shown, seconds; how long it is decoded before that; and whether a decoder can begin there. */
export interface Stamp {
  seconds: number;
  early: number;
  key: boolean;
}

/** Whether an ISO base media file (ISO/IEC 14496-12) is in fragments, whose list of whole pictures lies among the frames. */
async function isFragmented(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const { size } = await file.stat();
    for (let at = 0; at + 8 <= size;) {
      const { kind, bytes } = await boxAt(file, at);
      if (kind === 'moof') return true;
      // To the end of the file, or damaged: there is no more to look at.
      if (bytes < 8) return false;
      at += bytes;
    }
    return false;
  } finally {
    await file.close();
  }
}

/** Kind and length of the box at an offset; a length of 0 goes on to the end of the file. */
async function boxAt(file: FileHandle, offset: number): Promise<{ kind: string; bytes: number }> {
  const head = Buffer.alloc(16);
  await file.read(head, 0, 16, offset);
  const short = head.readUInt32BE(0);
  return { kind: head.toString('latin1', 4, 8), bytes: short === 1 ? Number(head.readBigUInt64BE(8)) : short };
}

/** Whether frames that are shown before a whole picture are decoded after it: they need the one before as well. */
function hasLeading(stamps: readonly Stamp[]): boolean {
  let key = -Infinity;
  return stamps.some((stamp) => {
    if (stamp.key) key = stamp.seconds;
    return stamp.seconds < key;
  });
}

/** How far a frame lies behind the whole picture before it, at most, seconds. */
function farthestFromKey(shown: readonly Stamp[]): number {
  let [key, farthest] = [shown[0].seconds, 0];
  for (const stamp of shown) {
    farthest = Math.max(farthest, stamp.seconds - key);
    if (stamp.key) key = stamp.seconds;
  }
  return farthest;
}

/**
 * Seconds by which decoding has to begin before a frame that is sought, so that it comes out whole: 0 where the container lists
 * its whole pictures and no frame before one needs another. `format`: names of the demuxer; `stamps` as they lie in the file.
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
  // Seeking goes by when whole pictures are decoded: sought so much earlier, none is taken that is shown behind the frame.
  return hasLeading(stamps) ? stamps.reduce((most, s) => Math.max(most, s.early), 0) + ROUNDED : 0;
}
