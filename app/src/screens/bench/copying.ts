import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import { REGION } from '@inkavo/core/regions/region';
import { stepKind } from '@inkavo/core/steps';
import { useBench } from '../../state/bench';
import { useClipboard } from '../../state/clipboard';
import { tell } from '../../state/messages';
import { withRegions } from '../../state/stepLists';

/** What steps are called together: the one by its name, several by their number. */
export function stepsText(all: readonly Step[]): string {
  // Regions come along with their steps.
  const steps = all.filter((s) => s.kind !== REGION);
  return steps.length === 1 ? (steps[0].label ?? stepKind(steps[0].kind).title) : `${steps.length} steps`;
}

/** Copies steps of the open clip. */
export function copySteps(steps: Step[]): void {
  const { opened, lists } = useBench.getState();
  if (!opened || steps.length === 0) return;
  useClipboard.getState().copy(withRegions(steps, joined(lists)), opened.clip.id);
  tell({ key: 'copied', text: `Copied: ${stepsText(steps)}.`, fades: true });
}

/**
 * Pastes what was copied into the open clip: in the place of its steps of those kinds; within the clip it was copied
 * from, beside them.
 */
export function pasteCopied(): void {
  const { steps, from } = useClipboard.getState();
  const { opened, pasteSteps } = useBench.getState();
  if (!opened || steps.length === 0) return;
  pasteSteps(steps, from === opened.clip.id);
  tell({ key: 'copied', text: `Pasted: ${stepsText(steps)}.`, fades: true });
}
