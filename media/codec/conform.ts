import type { MediaFacts } from '@inkavo/core/model/facts';

/** How a file stores its frames. */
type Stored = Pick<MediaFacts, 'fields' | 'pixelAspect' | 'width' | 'height' | 'chroma' | 'chromaSite'>;

export const isInterlaced = ({ fields }: Pick<MediaFacts, 'fields'>): boolean => fields !== 'progressive';

/**
 * Filters from stored frames to frames for processing, at the clip's size: interlaced ones are deinterlaced to the time
 * of their first field (motion adaptive, the codec library's `bwdif`), and non-square pixels are scaled to square ones.
 * Empty for most files, whose code values stay unchanged. Deinterlacing needs adjacent frames: `lead` frames decoded
 * only for that are dropped.
 */
export function conformFilters(facts: Stored, lead = 0): string[] {
  const { fields, pixelAspect, width, height, chroma, chromaSite } = facts;
  const filters: string[] = [];
  if (fields !== 'progressive')
    filters.push(`bwdif=mode=send_frame:parity=${fields === 'topFirst' ? 'tff' : 'bff'}:deint=all`);
  if (lead > 0) filters.push(`trim=start_frame=${lead}`);
  if (pixelAspect.num !== pixelAspect.den) {
    // Equal ranges on both sides leave code values unchanged; chroma keeps its siting.
    const at = chroma === '444' || chromaSite === 'left' ? 0 : 128;
    const site = `in_h_chr_pos=${at}:out_h_chr_pos=${at}`;
    const flags = 'lanczos+accurate_rnd';
    filters.push(`scale=${width}:${height}:flags=${flags}:in_range=full:out_range=full:${site}`, 'setsar=1');
  }
  return filters;
}

/** The filters as arguments; empty if there are none. */
export const filterArgs = (filters: readonly string[]): string[] => (filters.length ? ['-vf', filters.join(',')] : []);
