import type { Profile, TransferSpec } from '@inkavo/core/model/profile';
import { REGION } from '@inkavo/core/regions/region';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { stepKind } from '@inkavo/core/steps';

const CURVES: Record<TransferSpec['kind'], string> = {
  bt709: 'BT.709',
  srgb: 'sRGB',
  bt1886: 'gamma 2.4',
  gamma: 'gamma',
  hlg: 'HLG',
  pq: 'PQ',
  logCamera: 'log curve',
};

/** A profile in a few words: its curve and its primaries. */
export const profileNote = ({ transfer, primaries }: Profile): string => {
  const gamut =
    typeof primaries === 'string'
      ? { bt709: 'BT.709', bt2020: 'BT.2020', p3d65: 'P3', ap1: 'AP1' }[primaries]
      : 'own primaries';
  return `${CURVES[transfer.kind]}, ${gamut}`;
};

/** An item in a few words. */
export function noteOf(item: ShelfItem): string {
  if (item.kind === 'profile') return item.note || profileNote(item.profile);
  if (item.kind === 'lut') return `${item.role === 'technical' ? 'technical' : 'look'}, ${item.note}`;
  const kinds = item.steps.filter((s) => s.kind !== REGION).map((s) => stepKind(s.kind).title);
  return item.note || [...new Set(kinds)].join(', ');
}
