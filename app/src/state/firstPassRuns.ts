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

/** A clip that is to be read, and where it was filmed, if that was said. */
interface ToRead extends Named {
  setting: Setting | null;
}

/** A clip that was read, and what would be done with it. */
export interface Read extends Named {
  /** As in the outing's list, when it was read: it changes with the steps that act in it. */
  look: string;
  found: ClipClass;
  /** What it seems to be is likelier than all else together. */
  likely: boolean;
  /** Its own steps as they are, and as they would be; null where there is nothing to mend. */
  change: { from: Step[]; to: Step[] } | null;
  /** What its camera or its outing has, which would go on acting beside. */
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
