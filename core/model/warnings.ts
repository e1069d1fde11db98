import type { ListedClip } from './outing';

/** Transfer tags that are not standard video, with their names for display. */
const HDR: Record<string, string> = { 'arib-std-b67': 'hybrid log-gamma', smpte2084: 'PQ' };

/** Noteworthy properties of a file, each as a sentence, most important first. */
export function warningsOf(facts: ListedClip['facts']): string[] {
  const { tags, depth, width, height, fields, pixelAspect, soundTracks, unreadSoundTracks: unread } = facts;
  const warnings: string[] = [];
  const hdr = tags.transfer ? HDR[tags.transfer] : undefined;
  if (hdr) warnings.push(`Recorded as ${hdr}: convert it first.`);
  if (hdr && depth === 8) warnings.push('8 bits are few for such a recording: smooth tones may show steps.');
  if (!tags.matrix)
    warnings.push(`The file does not name its matrix: ${facts.matrix} is taken, as is common for its size.`);
  if (fields !== 'progressive')
    warnings.push('Interlaced: it is deinterlaced for work and exports, a frame for each two fields.');
  else if (tags.fields)
    warnings.push('Tagged as interlaced, but its frames are progressive: they are left as they are.');
  if (pixelAspect.num !== pixelAspect.den)
    warnings.push(
      `Its pixels are stored ${pixelAspect.num}:${pixelAspect.den} wide: work and exports have square ones, ${width}×${height}.`,
    );
  if (soundTracks - unread > 1)
    warnings.push(
      `It has ${soundTracks - unread} sound tracks: its exports keep them all, playing and films have the first.`,
    );
  if (unread > 0)
    warnings.push(
      unread === soundTracks
        ? 'Its sound is of a kind that cannot be read: exports have none.'
        : `${unread} of its ${soundTracks} sound tracks cannot be read: exports go without ${unread === 1 ? 'it' : 'them'}.`,
    );
  if (facts.variableRate) warnings.push('The frame rate varies: work and exports use an even one.');
  if (width % 2 || height % 2)
    warnings.push('The size is odd: H.264 and H.265 exports leave out a last column or row.');
  return warnings;
}
