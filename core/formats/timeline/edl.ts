import { placeShots } from '../../model/film';
import { FormatError } from '../error';
import { shotOf, type CutClip, type CutList } from './cutList';

/*
 * CMX 3600: 80 columns of event number, reel, track, transition and four time codes; comments begin with an asterisk.
 * The ASC CDL's v1.2 document names the comments ASC_SOP and ASC_SAT. The columns are from memory.
 */

/** A time code without dropped frames, at the nearest whole rate; an hour has so many frames of the timeline. */
export function timecode(frame: number, base: number): string {
  const two = (n: number): string => String(n).padStart(2, '0');
  const f = frame % base;
  const s = Math.floor(frame / base);
  return [Math.floor(s / 3600), Math.floor(s / 60) % 60, s % 60, f].map(two).join(':');
}

const four = (v: number): string => v.toFixed(4);
/** Comments are plain ASCII on one line. */
const plain = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/[^\x20-\x7e]/g, '')
    .trim();

/** Edits are counted to 999 (the event number has three digits). */
const MOST_EVENTS = 999;

const fps = ({ num, den }: CutList['rate']): number => num / den;

/**
 * A list of cuts as a CMX 3600 list, with each clip's ASC CDL in its comments. Recorded time codes begin at one hour
 * (common practice); source time codes count the clip's own frames from 0. Throws a {@link FormatError} for more clips
 * than the list can count.
 */
export function writeEdl(list: CutList): string {
  if (list.clips.length > MOST_EVENTS)
    throw new FormatError(`A CMX 3600 list holds ${MOST_EVENTS} clips; these are ${list.clips.length}.`);
  const base = Math.round(list.rate.num / list.rate.den);
  const hour = 3600 * base;
  const lines = [`TITLE: ${plain(list.name).slice(0, 70)}`, 'FCM: NON-DROP FRAME', ''];
  const event = (n: number): string => String(n).padStart(3, '0');
  const reel = 'AX      ';
  const placed = placeShots(list.clips.map(shotOf), list.rate, list.dissolve);
  /** Frames of a clip that go by in one of the timeline. */
  const pace = ({ rate, factor }: CutClip): number => (fps(rate) * factor) / fps(list.rate);
  placed.forEach(({ start, frames, dissolve }, k) => {
    const clip = list.clips[k];
    const ownBase = Math.round(fps(clip.rate));
    // In a dissolve the incoming clip's event begins where the mix does, and the outgoing one ends there.
    const end = start + frames - (placed[k + 1]?.dissolve ?? 0);
    const from = clip.inFrame;
    const source = [from, from + Math.round((end - start) * pace(clip))].map((f) => timecode(f, ownBase));
    const record = [start, end].map((f) => timecode(hour + f, base));
    const times = [...source, ...record].join(' ');
    if (dissolve > 0) {
      const before = list.clips[k - 1];
      const gone = start - placed[k - 1].start;
      const cut = timecode(before.inFrame + Math.round(gone * pace(before)), Math.round(fps(before.rate)));
      const at = timecode(hour + start, base);
      lines.push(`${event(k + 1)}  ${reel} V     C        ${cut} ${cut} ${at} ${at}`);
      lines.push(`${event(k + 1)}  ${reel} V     D    ${event(dissolve)} ${times}`);
    } else lines.push(`${event(k + 1)}  ${reel} V     C        ${times}`);
    if (clip.factor !== 1) {
      lines.push(
        `M2   AX             ${(fps(clip.rate) * clip.factor).toFixed(1).padStart(5, '0')}                ${timecode(from, ownBase)}`,
      );
    }
    const { slope, offset, power, saturation } = clip.cdl;
    lines.push(
      `* FROM CLIP NAME: ${plain(clip.name)}`,
      `* SOURCE FILE: ${plain(clip.path)}`,
      `* ASC_SOP (${slope.map(four).join(' ')})(${offset.map(four).join(' ')})(${power.map(four).join(' ')})`,
      `* ASC_SAT ${four(saturation)}`,
      ...(clip.lost.length ? [`* NOT IN THE CDL: ${plain(clip.lost.join(', '))}`] : []),
      ...clip.markers.map((m) => `* LOC: ${timecode(m.frame, ownBase)} RED ${plain(m.name)}`),
      '',
    );
  });
  return lines.join('\n');
}
