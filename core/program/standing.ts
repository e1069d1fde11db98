import type { Step } from '../model/grade';
import { isKeyframed, resolveParams } from '../regions/keyframes';
import { checkedRegion, REGION, regionMoves } from '../regions/region';
import { poseAt, type Shape } from '../regions/shape';

const standing = (shape: Shape, seconds: number): Shape =>
  shape.keys.length === 1 ? shape : { ...shape, keys: [{ ...poseAt(shape, seconds), seconds: 0, ease: 'linear' }] };

/** A step as it is at a time: numbers without keyframes, shapes that stay where they are. One that does not change is the same. */
function stepAt(step: Step, seconds: number): Step {
  if (step.kind === REGION && regionMoves(step.params)) {
    const region = checkedRegion(step.params);
    const still = { ...region, shapes: region.shapes.map((s) => standing(s, seconds)) };
    return { ...step, params: resolveParams(still, seconds) };
  }
  return Object.values(step.params).some(isKeyframed) ? { ...step, params: resolveParams(step.params, seconds) } : step;
}

/**
 * A grade as it stands at a time of the clip, in seconds. It does then what the whole one does, and is small where that has
 * thousands of keys: of what follows something through a clip a worker gets one pose, not two megabytes with every move of a finger.
 */
export const stepsAt = (steps: readonly Step[], seconds: number): Step[] => steps.map((s) => stepAt(s, seconds));
