import { secondsOf } from '@inkavo/core/model/facts';
import { joined } from '@inkavo/core/model/lists';
import { sourceNoise } from '@inkavo/core/program/source';
import { shownLists, type BenchState } from '../state/bench';
import type { Slot } from './picture';
import { withoutCompared } from './regionLook';

const thousandths = (v: number): number => Math.round(1000 * v) / 1000;

/**
 * How much noise the frame at rest is to be without, as the server's address takes it: of luma and of chroma; empty: as
 * recorded. That of the picture, or of what it is compared with.
 */
export function askedNoise(state: BenchState, slot: Slot): string {
  const { opened, frame, inHand, compareWith } = state;
  if (!opened || (slot === 'compared' && compareWith === 'recorded')) return '';
  const steps = joined(shownLists(state));
  const other = slot === 'compared' && compareWith !== 'kept';
  const seen = other ? withoutCompared(steps, inHand, compareWith) : steps;
  const noise = sourceNoise(seen, secondsOf(opened.clip.facts, frame));
  return noise ? `${thousandths(noise.luma)},${thousandths(noise.chroma)}` : '';
}
