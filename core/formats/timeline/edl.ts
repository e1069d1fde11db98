import { placeShots } from '../../model/film';
import { FormatError } from '../error';
import { shotOf, type CutClip, type CutList } from './cutList';
import { baseOf, timecode } from './timecode';

/*
 * CMX 3600: 80 columns of event number, reel, track, transition and four time codes; comments begin with an asterisk.
 * The ASC CDL's v1.2 document names the comments ASC_SOP and ASC_SAT. The columns are from memory.
 */

const four = (v: number): string => v.toFixed(4);
/** Comments are plain ASCII on one line. */
const plain = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/[^\x20-\x7e]/g, '')
    .trim();

/** An EDL numbers its events up to 999 (three digits). */
const MOST_EVENTS = 999;

const fps = ({ num, den }: CutList['rate']): number => num / den;

/**
 * A cut list as a CMX 3600 EDL, with each clip's ASC CDL in comments. Record time codes begin at one hour (common
 * practice), counted at the timeline's rate; source time codes are those of the recording, or count its frames from 0
 * where it has none. Throws a {@link FormatError} for too many clips.
 */
export function writeEdl(list: CutList): string {
  if (list.clips.length > MOST_EVENTS)
    throw new FormatError(`A CMX 3600 list holds ${MOST_EVENTS} clips; these are ${list.clips.length}.`);
  const base = baseOf(list.rate);
  const hour = 3600 * base;
  const lines = [`TITLE: ${plain(list.name).slice(0, 70)}`, 'FCM: NON-DROP FRAME', ''];
  const event = (n: number): string => String(n).padStart(3, '0');
  const reel = 'AX      ';
  const placed = placeShots(list.clips.map(shotOf), list.rate, list.dissolve);
  /** Source frames per frame of the timeline. */
  const pace = ({ rate, factor }: CutClip): number => (fps(rate) * factor) / fps(list.rate);
  placed.forEach(({ start, frames, dissolve }, k) => {
    const clip = list.clips[k];
    /** A frame of the recording. */
    const at = ({ rate, start: first, drop }: CutClip, frame: number): string =>
      timecode(first + frame, baseOf(rate), drop);
    // In a dissolve the incoming clip's event begins where the mix does, and the outgoing one ends there.
    const end = start + frames - (placed[k + 1]?.dissolve ?? 0);
    const from = clip.inFrame;
    const source = [from, from + Math.round((end - start) * pace(clip))].map((f) => at(clip, f));
    const record = [start, end].map((f) => timecode(hour + f, base));
    const times = [...source, ...record].join(' ');
    if (dissolve > 0) {
      const before = list.clips[k - 1];
      const gone = start - placed[k - 1].start;
      const cut = at(before, before.inFrame + Math.round(gone * pace(before)));
      const mixed = timecode(hour + start, base);
      lines.push(`${event(k + 1)}  ${reel} V     C        ${cut} ${cut} ${mixed} ${mixed}`);
      lines.push(`${event(k + 1)}  ${reel} V     D    ${event(dissolve)} ${times}`);
    } else lines.push(`${event(k + 1)}  ${reel} V     C        ${times}`);
    if (clip.factor !== 1) {
      lines.push(
        `M2   AX             ${(fps(clip.rate) * clip.factor).toFixed(1).padStart(5, '0')}                ${at(clip, from)}`,
      );
    }
    const { slope, offset, power, saturation } = clip.cdl;
    lines.push(
      `* FROM CLIP NAME: ${plain(clip.name)}`,
      `* SOURCE FILE: ${plain(clip.path)}`,
      `* ASC_SOP (${slope.map(four).join(' ')})(${offset.map(four).join(' ')})(${power.map(four).join(' ')})`,
      `* ASC_SAT ${four(saturation)}`,
      ...(clip.lost.length ? [`* NOT IN THE CDL: ${plain(clip.lost.join(', '))}`] : []),
      ...clip.markers.map((m) => `* LOC: ${at(clip, m.frame)} RED ${plain(m.name)}`),
      '',
    );
  });
  return lines.join('\n');
}
