/** Frames per second, as a fraction. */
interface Rate {
  num: number;
  den: number;
}

/** Counting rate of time codes: 30 for 29.97. */
export const baseOf = ({ num, den }: Rate): number => Math.round(num / den);

/**
 * Frame numbers skipped at each full minute except every tenth, so that drop-frame time code follows the clock: 2 at
 * 29.97 frames per second, 4 at 59.94 (SMPTE ST 12-1).
 */
const droppedAt = (base: number): number => Math.round(base / 15);

const TIMECODE = /^(\d{2}):([0-5]\d):([0-5]\d)([:;.])(\d{2,3})$/;

/** Whether a time code is drop-frame: a semicolon or a point precedes its frames. */
export const isDropFrame = (text: string): boolean => /[;.]\d+$/.test(text);

/** Frame number of a time code, from 0 at midnight; null if it is invalid at this rate. */
export function frameOf(text: string, rate: Rate): number | null {
  const match = TIMECODE.exec(text);
  if (!match) return null;
  const base = baseOf(rate);
  const [hours, minutes, seconds, frames] = [match[1], match[2], match[3], match[5]].map(Number);
  if (frames >= base) return null;
  const all = 60 * hours + minutes;
  const counted = (60 * all + seconds) * base + frames;
  return isDropFrame(text) ? counted - droppedAt(base) * (all - Math.floor(all / 10)) : counted;
}

/** The time code this many frames after another, in the same counting; null if it is invalid at this rate. */
export function timecodeAfter(text: string, frames: number, rate: Rate): string | null {
  const first = frameOf(text, rate);
  return first === null ? null : timecode(first + frames, baseOf(rate), isDropFrame(text));
}

/** Time code of a frame at an integer rate; `drop`: drop-frame. */
export function timecode(frame: number, base: number, drop = false): string {
  let number = frame;
  if (drop) {
    const dropped = droppedAt(base);
    const minute = 60 * base - dropped;
    const ten = 10 * minute + dropped;
    const [tens, rest] = [Math.floor(frame / ten), frame % ten];
    // The first minute of ten skips none.
    const minutes = rest < 60 * base ? 0 : 1 + Math.floor((rest - 60 * base) / minute);
    number += dropped * (9 * tens + minutes);
  }
  const two = (n: number): string => String(n).padStart(2, '0');
  const seconds = Math.floor(number / base);
  const clock = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60].map(two).join(':');
  return `${clock}${drop ? ';' : ':'}${two(number % base)}`;
}
