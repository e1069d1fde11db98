import type { Step } from '@inkavo/core/model/grade';
import { shownLists, useBench, type BenchState } from '../../state/bench';
import { findStep } from '../../state/stepLists';
import { useRegionTool } from '../../state/regions';
import type { Moment, Stamped } from '../worker/frame';
import type { Look } from './look';

/** The region of the step in hand, if it needs an op: for hatching, or for readings. */
export function hatchedRegion(steps: readonly Step[], inHand: string | null): Pick<Moment, 'show'> {
  const { hatched, reading } = useRegionTool.getState();
  const show = hatched || reading ? steps.find((s) => s.id === inHand)?.region : undefined;
  return show === undefined ? {} : { show };
}

/** Readings are limited to the region of the step in hand. */
export function readWithin(): Pick<Stamped, 'within'> {
  const state = useBench.getState();
  const within = useRegionTool.getState().reading ? findStep(shownLists(state), state.inHand)?.step.region : undefined;
  return within === undefined ? {} : { within };
}

/** Whether the picture is shown with the comparison's reference. */
export const showsBefore = ({ untouched, eyeRest }: Pick<BenchState, 'untouched' | 'eyeRest'>): boolean =>
  untouched || eyeRest === 'before';

/** Display options of the picture. `show`: the region whose selection is shown. */
export function lookNow(show: string | undefined): Look {
  const state = useBench.getState();
  const { split, overlay, compareWith, beside, live } = state;
  return {
    slot: showsBefore(state) ? 'compared' : 'graded',
    split: compareWith === 'kept' ? null : split,
    // A kept frame is a separate picture beside the canvas.
    beside: beside && compareWith !== 'kept',
    ...regionLook(overlay, show),
    quick: live !== null,
  };
}

/** Hatching; another overlay takes precedence. */
const regionLook = (overlay: BenchState['overlay'], show: string | undefined): Pick<Look, 'overlay' | 'region'> =>
  show !== undefined && useRegionTool.getState().hatched && overlay === 'none'
    ? { overlay: 'region', region: show }
    : { overlay, region: null };

/** Calls back when hatching, or readings of a region, are switched on or off, until unsubscribed. */
export const watchHatching = (then: () => void): (() => void) =>
  useRegionTool.subscribe(
    (now, before) => (now.hatched !== before.hatched || now.reading !== before.reading) && then(),
  );

/** A grade without the step in hand, or without all steps in its region. */
export function withoutCompared(
  steps: readonly Step[],
  inHand: string | null,
  compareWith: BenchState['compareWith'],
): Step[] {
  const region = compareWith === 'region' ? steps.find((s) => s.id === inHand)?.region : undefined;
  return steps.filter((s) => s.id !== inHand && (region === undefined || s.region !== region));
}
