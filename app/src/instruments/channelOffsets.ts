import type { Chroma } from '@inkavo/core/scopes/vectorscope';

export type Channel = 'red' | 'green' | 'blue';

const RED = 1.5748;
const BLUE = 1.8556;
/** Green from Cr and Cb at constant luma (BT.709). */
const GREEN_CR = (-0.2126 * RED) / 0.7152;
const GREEN_CB = (-0.0722 * BLUE) / 0.7152;

/** Offset of each channel from a shift in Cb and Cr at constant luma, encoded. */
export const channelOffsets = ({ cb, cr }: Chroma): Record<Channel, number> => ({
  red: RED * cr,
  green: GREEN_CR * cr + GREEN_CB * cb,
  blue: BLUE * cb,
});

/**
 * The smallest shift that gives one channel this offset: red and blue have an axis each, green takes the shortest
 * direction.
 */
export function withChannel(colour: Chroma, channel: Channel, value: number): Chroma {
  if (channel === 'red') return { ...colour, cr: value / RED };
  if (channel === 'blue') return { ...colour, cb: value / BLUE };
  const k = (value - channelOffsets(colour).green) / (GREEN_CR ** 2 + GREEN_CB ** 2);
  return { cb: colour.cb + k * GREEN_CB, cr: colour.cr + k * GREEN_CR };
}
