import type { Step } from '@inkavo/core/model/grade';
import type { Owner, StepLists } from '@inkavo/core/model/lists';
import { stepKind } from '@inkavo/core/steps';
import equal from 'fast-deep-equal';
import type { ClipOpened, OutingOpened } from '../api/client';
import { queries } from '../api/queries';
import { tell } from './messages';
import { findStep, detachStep } from './stepLists';

type Shared = Exclude<Owner, 'clip'>;
const WHOSE: Record<Shared, string> = { camera: 'the camera', outing: 'the outing' };

/** Number of other clips that inherit a step of the open clip's camera or outing; undefined: unknown yet. */
export function followers({ clip }: ClipOpened, owner: Shared): number | undefined {
  const open = queries.getQueryData<OutingOpened>(['outing', clip.outingId]);
  return open?.clips.filter((c) => c.id !== clip.id && (owner === 'outing' || c.cameraId === clip.cameraId)).length;
}

export const followText = (owner: Shared, count: number): string =>
  `It is ${WHOSE[owner]}’s: ${count} other clip${count === 1 ? ' follows' : 's follow'}.`;

/** Steps already reported since the clip was opened. */
let told: { clipId: string; ids: Set<string> } = { clipId: '', ids: new Set() };

/** The previous state of the shared step whose parameters differ between two lists. */
function changedShared(before: StepLists, after: StepLists): { owner: Shared; was: Step } | undefined {
  for (const owner of ['camera', 'outing'] as const) {
    if (before[owner] === after[owner]) continue;
    const was = before[owner].find((s) => {
      const now = after[owner].find((n) => n.id === s.id);
      return now !== undefined && !equal(now.params, s.params);
    });
    if (was) return { owner, was };
  }
  return undefined;
}

/**
 * At the first change of a shared step in a clip, reports how many other clips are affected, and offers to change it in
 * this clip only.
 */
export function tellShared(
  opened: ClipOpened | null,
  before: StepLists,
  after: StepLists,
  edit: (f: (lists: StepLists) => StepLists) => void,
): void {
  const found = opened && changedShared(before, after);
  if (!found) return;
  const { owner, was } = found;
  if (told.clipId !== opened.clip.id) told = { clipId: opened.clip.id, ids: new Set() };
  const count = followers(opened, owner);
  if (told.ids.has(was.id) || !count) return;
  told.ids.add(was.id);
  tell({
    key: 'shared',
    text: `${was.label ?? stepKind(was.kind).title}: ${followText(owner, count)}`,
    fades: true,
    actions: [
      {
        title: 'Only here',
        run: () => edit((lists) => (findStep(lists, was.id) ? detachStep(lists, was.id, was) : lists)),
      },
    ],
  });
}
