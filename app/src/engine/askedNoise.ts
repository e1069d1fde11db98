import { secondsOf } from '@inkavo/core/model/facts';
import { joined } from '@inkavo/core/model/lists';
import { sourceNoise } from '@inkavo/core/program/source';
import { shownLists, type BenchState } from '../state/bench';
import { showsBefore, withoutCompared } from './regionLook';

const thousandths = (v: number): number => Math.round(1000 * v) / 1000;

/**
 * How much noise the frame on the screen is to be without, as the server's address takes it: of luma and of chroma. Empty:
 * the frame as recorded, which is what is asked for while the picture is held against it.
 */
export function askedNoise(state: BenchState): string {
  const { opened, frame, inHand, compareWith } = state;
  if (!opened) return '';
  const held = showsBefore(state);
  if (held && compareWith === 'recorded') return '';
  const steps = joined(shownLists(state));
  const seen = held && compareWith !== 'kept' ? withoutCompared(steps, inHand, compareWith) : steps;
  const noise = sourceNoise(seen, secondsOf(opened.clip.facts, frame));
  return noise ? `${thousandths(noise.luma)},${thousandths(noise.chroma)}` : '';
}
