import type { Step } from '../model/grade';
import { isKeyframed, resolveParams } from '../regions/keyframes';
import { checkedRegion, REGION, regionMoves } from '../regions/region';
import { poseAt, type Shape } from '../regions/shape';

const standing = (shape: Shape, seconds: number): Shape =>
  shape.keys.length === 1 ? shape : { ...shape, keys: [{ ...poseAt(shape, seconds), seconds: 0, ease: 'linear' }] };

/**
 * A step resolved at a time: numbers without keyframes, shapes with a single pose. Unchanged steps are returned as the
 * same object.
 */
function stepAt(step: Step, seconds: number): Step {
  if (step.kind === REGION && regionMoves(step.params)) {
    const region = checkedRegion(step.params);
    const still = { ...region, shapes: region.shapes.map((s) => standing(s, seconds)) };
    return { ...step, params: resolveParams(still, seconds) };
  }
  return Object.values(step.params).some(isKeyframed) ? { ...step, params: resolveParams(step.params, seconds) } : step;
}

/**
 * A grade resolved at a time of the clip, in seconds. Equivalent to the whole grade at that time but small: a tracked
 * shape has thousands of keys, and a worker should receive one pose rather than two megabytes on every pointer move.
 */
export const stepsAt = (steps: readonly Step[], seconds: number): Step[] => steps.map((s) => stepAt(s, seconds));
