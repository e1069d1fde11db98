import { ycbcrToRgb } from '@inkavo/core/colour/ycbcr';

const LUMA = 0.55;
const CHROMA = 0.24;
const STOPS = 24;

/** A display colour for a hue in turns from +Cb towards +Cr, light enough to be distinguishable. */
export function hueColour(turns: number): string {
  const angle = turns * 2 * Math.PI;
  const rgb = ycbcrToRgb([LUMA, CHROMA * Math.cos(angle), CHROMA * Math.sin(angle)], 'bt709');
  return `rgb(${rgb.map((v) => Math.round(255 * Math.min(1, Math.max(0, v)))).join(',')})`;
}

/** The hues from 0 to 1 turn, left to right. */
export const hueGradient = (): string =>
  `linear-gradient(to right, ${Array.from({ length: STOPS + 1 }, (_, i) => hueColour(i / STOPS)).join(',')})`;
