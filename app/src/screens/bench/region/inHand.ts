import { secondsOf } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import type { Region } from '@inkavo/core/regions/region';
import { poseAt, withPose, type Pose, type Shape } from '@inkavo/core/regions/shape';
import { shownLists, useBench, type BenchState } from '../../../state/bench';
import { regionOf, useRegionTool } from '../../../state/regions';
import { findStep } from '../../../state/stepLists';

/** The displayed region in which the step in hand acts. */
export function regionStep(state: BenchState): Step | undefined {
  const lists = shownLists(state);
  const id = findStep(lists, state.inHand)?.step.region;
  return id === undefined ? undefined : findStep(lists, id)?.step;
}

/** The same as a hook. */
export const useRegionStep = (): Step | undefined => useBench(regionStep);

/** Time of the playhead in seconds. */
export const playheadSeconds = (): number => {
  const { opened, frame } = useBench.getState();
  return opened ? secondsOf(opened.clip.facts, frame) : 0;
};
export const usePlayheadSeconds = (): number =>
  useBench((s) => (s.opened ? secondsOf(s.opened.clip.facts, s.frame) : 0));

/** The shape in hand: the chosen one, or the first. */
export const shapeInHand = ({ shapes }: Region, id: string | null): Shape | undefined =>
  shapes.find((s) => s.id === id) ?? shapes[0];

/** Changes the region of the step in hand. */
export function changeRegion(change: (region: Region) => Partial<Region>, live = false): void {
  const step = regionStep(useBench.getState());
  if (step) useBench.getState().setParams(step.id, change(regionOf(step)), live);
}

/** Changes one shape of it. */
export const changeShape = (id: string, change: (shape: Shape) => Shape, live = false): void =>
  changeRegion(({ shapes }) => ({ shapes: shapes.map((s) => (s.id === id ? change(s) : s)) }), live);

/** Sets the pose of a shape at the playhead. */
export const setPose = (id: string, pose: Pose, live = false): void =>
  changeShape(id, (shape) => withPose(shape, playheadSeconds(), pose, false), live);

/** The shape in hand and its current pose. */
export function poseInHand(): { shape: Shape; pose: Pose } | undefined {
  const step = regionStep(useBench.getState());
  const shape = step && shapeInHand(regionOf(step), useRegionTool.getState().shape);
  return shape && { shape, pose: poseAt(shape, playheadSeconds()) };
}
