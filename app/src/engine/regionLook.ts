import type { Step } from '@inkavo/core/model/grade';
import type { BenchState } from '../state/bench';
import { useRegionTool } from '../state/regions';
import type { Moment } from './frame';
import type { Look } from './picture';

/** The region of the step in hand, while what it leaves out is hatched. */
export function hatchedRegion(steps: readonly Step[], inHand: string | null): Pick<Moment, 'show'> {
  const show = useRegionTool.getState().hatched ? steps.find((s) => s.id === inHand)?.region : undefined;
  return show === undefined ? {} : { show };
}

/** What is drawn over the picture: another overlay goes before. */
export const regionLook = (
  overlay: BenchState['overlay'],
  show: string | undefined,
): Pick<Look, 'overlay' | 'region'> =>
  show !== undefined && overlay === 'none' ? { overlay: 'region', region: show } : { overlay, region: null };

/** Calls when hatching begins or ends, until what is returned is called. */
export const watchHatching = (then: () => void): (() => void) =>
  useRegionTool.subscribe((now, before) => now.hatched !== before.hatched && then());

/** A grade without the step in hand, or without all steps in its region. */
export function withoutCompared(
  steps: readonly Step[],
  inHand: string | null,
  compareWith: BenchState['compareWith'],
): Step[] {
  const region = compareWith === 'region' ? steps.find((s) => s.id === inHand)?.region : undefined;
  return steps.filter((s) => s.id !== inHand && (region === undefined || s.region !== region));
}
