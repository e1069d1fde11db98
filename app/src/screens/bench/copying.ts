import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import { REGION } from '@inkavo/core/regions/region';
import { clipSeconds } from '@inkavo/core/model/facts';
import { stepKind } from '@inkavo/core/steps';
import { atDepthsOf, followsLog } from '@inkavo/core/steps/water/followLog';
import { useBench } from '../../state/bench';
import { useClipboard } from '../../state/clipboard';
import { tell } from '../../state/messages';
import { withRegions } from '../../state/stepLists';

/** Label for steps: a single one by name, several by number. */
export function stepsText(all: readonly Step[]): string {
  // Regions are copied with their steps.
  const steps = all.filter((s) => s.kind !== REGION);
  return steps.length === 1 ? (steps[0].label ?? stepKind(steps[0].kind).title) : `${steps.length} steps`;
}

/** Ids of the open clip's steps whose depth follows its dive log. */
export function followingLog(steps: readonly Step[]): string[] {
  const { dive } = useBench.getState();
  return steps.filter((s) => followsLog(s, dive)).map((s) => s.id);
}

/** Copies steps of the open clip. */
export function copySteps(steps: Step[]): void {
  const { opened, lists } = useBench.getState();
  if (!opened || steps.length === 0) return;
  const copied = { steps: withRegions(steps, joined(lists)), from: opened.clip.id, following: followingLog(steps) };
  useClipboard.getState().copy(copied);
  tell({ key: 'copied', text: `Copied: ${stepsText(steps)}.`, fades: true });
}

/**
 * Pastes copied steps into the open clip: replacing its steps of those kinds; within the clip they were copied from,
 * beside them.
 */
export function pasteCopied(): void {
  const { steps, from, following } = useClipboard.getState();
  const { opened, dive, pasteSteps } = useBench.getState();
  if (!opened || steps.length === 0) return;
  const beside = from === opened.clip.id;
  const here = dive || !beside ? atDepthsOf(steps, following, dive, clipSeconds(opened.clip.facts)) : steps;
  pasteSteps(here, beside);
  tell({ key: 'copied', text: `Pasted: ${stepsText(steps)}.`, fades: true });
}
