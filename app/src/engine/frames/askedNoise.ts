import { secondsOf } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import { joined, type StepLists } from '@inkavo/core/model/lists';
import { sourceNoise } from '@inkavo/core/program/source';
import { stepKind } from '@inkavo/core/steps';
import { shownLists, type BenchState } from '../../state/bench';
import type { Slot } from '../picture/look';
import { withoutCompared } from '../picture/regionLook';

/** Cache of the steps that request work of the decoder; needed at every state change of the bench. */
const sources = new WeakMap<StepLists, Step[]>();
function sourceSteps(lists: StepLists): Step[] {
  const known = sources.get(lists) ?? joined(lists).filter((s) => stepKind(s.kind).ofSource);
  sources.set(lists, known);
  return known;
}

/**
 * Noise reduction of the still frame, as in the server's URL: luma and chroma; empty: none. For the picture, or for the
 * reference of the comparison.
 */
export function askedNoise(state: BenchState, slot: Slot): string {
  const { opened, frame, inHand, compareWith } = state;
  if (!opened || (slot === 'compared' && compareWith === 'recorded')) return '';
  const steps = sourceSteps(shownLists(state));
  const other = slot === 'compared' && compareWith !== 'kept';
  const seen = other ? withoutCompared(steps, inHand, compareWith) : steps;
  const noise = sourceNoise(seen, secondsOf(opened.clip.facts, frame));
  return noise ? `${noise.luma},${noise.chroma}` : '';
}
