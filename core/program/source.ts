import type { Step } from '../model/grade';
import type { NoiseAmounts } from '../noise/reduce';
import { isKeyframed } from '../regions/keyframes';
import { stepKind } from '../steps';
import { paramsAt } from './plan';

/** Maximum for a step, and for all of them together. */
export const MOST_NOISE = 6;

/**
 * What a grade requests from the decoder at a time, before anything else: the amount of noise reduction; undefined:
 * none. If several steps request it, the largest amount applies.
 */
export function sourceNoise(steps: readonly Step[], seconds: number): NoiseAmounts | undefined {
  const asked = steps.flatMap((step) => {
    const params = stepKind(step.kind).ofSource && paramsAt(step, seconds);
    if (!params) return [];
    const { luma, chroma } = stepKind(step.kind).ofSource!(params);
    return [{ luma: luma * step.strength, chroma: chroma * step.strength }];
  });
  if (asked.length === 0) return undefined;
  // Rounded to thousandths, as in frame requests, so that exports match.
  const most = (of: (a: NoiseAmounts) => number): number => Math.round(1000 * Math.max(...asked.map(of))) / 1000;
  const found = { luma: most((a) => a.luma), chroma: most((a) => a.chroma) };
  return found.luma > 0 || found.chroma > 0 ? found : undefined;
}

/** Whether a grade requests anything from the decoder at any time. */
export const asksSource = (steps: readonly Step[]): boolean =>
  steps.some(
    (s) =>
      stepKind(s.kind).ofSource !== undefined &&
      (Object.values(s.params).some(isKeyframed) || paramsAt(s, 0) !== undefined),
  );
