import { secondsOf } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import { changesOverTime } from '@inkavo/core/program/compile';
import { summaryOf } from '@inkavo/core/report/stepsInWords';
import { useBench } from '../../state/bench';

/** A step in a few words, at the frame shown. */
export function useSummary(step: Step): string {
  const seconds = useBench((s) => (s.opened && changesOverTime([step]) ? secondsOf(s.opened.clip.facts, s.frame) : 0));
  return summaryOf(step, seconds);
}
