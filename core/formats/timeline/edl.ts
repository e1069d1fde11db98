import { placesOf, type CutList } from './cutList';

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
export const MOST_EVENTS = 999;

/**
 * A list of cuts as a CMX 3600 list, with each clip's ASC CDL in its comments. Recorded time codes begin at one hour
 * (common practice); source time codes count the clip's own frames from 0.
 */
export function writeEdl(list: CutList): string {
  const base = Math.round(list.rate.num / list.rate.den);
  const hour = 3600 * base;
  const lines = [`TITLE: ${plain(list.name).slice(0, 70)}`, 'FCM: NON-DROP FRAME', ''];
  const event = (n: number): string => String(n).padStart(3, '0');
  const reel = 'AX      ';
  placesOf(list).forEach((place, k) => {
    const clip = list.clips[k];
    const own = clip.rate.num / clip.rate.den;
    const ownBase = Math.round(own);
    const perFrame = (own * clip.factor * list.rate.den) / list.rate.num;
    // In a dissolve the incoming clip's event begins where the mix does, and the outgoing one ends there.
    const [dissolve, next] = [place.dissolve, list.clips[k + 1] ? placesOf(list)[k + 1].dissolve : 0];
    const start = place.start - (dissolve >> 1);
    const end = place.start + place.frames + (next - (next >> 1)) - next;
    const from = clip.inFrame;
    const source = [from, from + Math.round((end - start) * perFrame)].map((f) => timecode(f, ownBase));
    const record = [start, end].map((f) => timecode(hour + f, base));
    const times = [...source, ...record].join(' ');
    if (dissolve > 0) {
      const before = list.clips[k - 1];
      const cut = timecode(
        before.outFrame + 1 - Math.round(dissolve * perFrame),
        Math.round(before.rate.num / before.rate.den),
      );
      const at = timecode(hour + start, base);
      lines.push(`${event(k + 1)}  ${reel} V     C        ${cut} ${cut} ${at} ${at}`);
      lines.push(`${event(k + 1)}  ${reel} V     D    ${event(dissolve)} ${times}`);
    } else lines.push(`${event(k + 1)}  ${reel} V     C        ${times}`);
    if (clip.factor !== 1) {
      const shown = own * clip.factor;
      lines.push(`M2   AX             ${shown.toFixed(1).padStart(5, '0')}                ${timecode(from, ownBase)}`);
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
