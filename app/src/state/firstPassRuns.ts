import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import type { ClipClass } from '@inkavo/core/reading/estimate';
import type { Setting } from '@inkavo/core/reading/settings';
import { stepKind } from '@inkavo/core/steps';
import { api } from '../api/client';
import { ClipRuns, type ClipRun, type Named } from './clipRuns';
import { isLikely } from './likely';
import { listsOf, lookOfOpened } from './lists';
import { stepsBeside, takeSteps } from './stepLists';

/** A clip to read, and its setting, if known. */
interface ToRead extends Named {
  setting: Setting | null;
}

/** A clip that was read, with the proposal for it. */
export interface Read extends Named {
  /** Revision from the outing's list when it was read: changes with the steps that act in it. */
  look: string;
  found: ClipClass;
  /** The best explanation is likelier than all others together. */
  likely: boolean;
  /** Its own steps before and after; null if there is nothing to mend. */
  change: { from: Step[]; to: Step[] } | null;
  /** Steps of its camera or its outing that would act in addition. */
  beside: string[];
}
export type FirstPassRun = ClipRun<ToRead, Read>;

async function readOne({ id, name, setting }: ToRead, signal: AbortSignal): Promise<Read> {
  const opened = await api.clip(id);
  const lists = listsOf(opened);
  const pass = await api.firstPass(id, { steps: joined(lists), setting: setting ?? undefined }, { signal });
  const [{ found, proposals }] = pass.explanations;
  const steps = proposals.map((p) => p.step);
  return {
    id,
    name,
    look: lookOfOpened(opened),
    found,
    likely: isLikely(pass),
    change: steps.length ? { from: lists.clip, to: takeSteps(lists, steps).lists.clip } : null,
    beside: steps.length ? stepsBeside(lists, steps).map(({ step }) => step.label ?? stepKind(step.kind).title) : [],
  };
}

/** First passes on several clips. */
export const firstPassRuns = new ClipRuns<ToRead, Read>({
  key: 'inkavo-first-passes',
  told: 'The first pass on several clips is read: its outing shows what was found.',
  readOne,
});
