import type { Step } from '../model/grade';
import type { NoiseAmounts } from '../noise/reduce';
import { isKeyframed } from '../regions/keyframes';
import { stepKind } from '../steps';
import { paramsAt } from './plan';

/** Most a step asks for, and so all of them together. */
export const MOST_NOISE = 6;

/**
 * What a grade asks of the decoder at a time, before anything else: how much noise is taken out; undefined: nothing. Of more
 * than one step that asks, the most counts.
 */
export function sourceNoise(steps: readonly Step[], seconds: number): NoiseAmounts | undefined {
  const asked = steps.flatMap((step) => {
    const params = stepKind(step.kind).ofSource && paramsAt(step, seconds);
    if (!params) return [];
    const { luma, chroma } = stepKind(step.kind).ofSource!(params);
    return [{ luma: luma * step.strength, chroma: chroma * step.strength }];
  });
  if (asked.length === 0) return undefined;
  // In thousandths, which is how frames are asked for: so they are an export's.
  const most = (of: (a: NoiseAmounts) => number): number => Math.round(1000 * Math.max(...asked.map(of))) / 1000;
  const found = { luma: most((a) => a.luma), chroma: most((a) => a.chroma) };
  return found.luma > 0 || found.chroma > 0 ? found : undefined;
}

/** Whether a grade asks anything of the decoder at any time. */
export const asksSource = (steps: readonly Step[]): boolean =>
  steps.some(
    (s) =>
      stepKind(s.kind).ofSource !== undefined &&
      (Object.values(s.params).some(isKeyframed) || paramsAt(s, 0) !== undefined),
  );
