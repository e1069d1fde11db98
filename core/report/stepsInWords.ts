import { hasNoEffect, type Step } from '../model/grade';
import type { Owner } from '../model/lists';
import { isKeyframed, resolveParams } from '../regions/keyframes';
import { stepKind } from '../steps';
import { formatNumber } from '../steps/numbers';

/** A description of one step of a grade. */
export interface StepInWords {
  title: string;
  /** Its owner, if known. */
  owner: Owner | null;
  /** In a few words, as on its chip. */
  summary: string;
  /** Every number that is not neutral, as displayed: "Black point −3 %". */
  numbers: string[];
  /** 0–1. */
  strength: number;
  /** Name of the region in which it acts; null: everywhere. */
  region: string | null;
}

/** The effective numbers of a step, each with its name; of keyframed ones the first value, and that it changes. */
function numbersOf(step: Step): string[] {
  const kind = stepKind(step.kind);
  const params = resolveParams(step.params, 0);
  return kind.numbers
    .filter((n) => isKeyframed(step.params[n.key]) || params[n.key] !== n.neutral)
    .filter((n) => typeof params[n.key] === 'number' && (n.when?.(params) ?? true))
    .map((n) => {
      const moves = isKeyframed(step.params[n.key]) ? ', changing over the clip' : '';
      return `${n.label} ${formatNumber(n, params[n.key] as number)}${moves}`;
    });
}

/** A short summary of a step at a time of the clip, in seconds. */
export function summaryOf({ kind: name, params }: Step, seconds = 0): string {
  const kind = stepKind(name);
  return kind.summary(kind.schema.parse(resolveParams(params, seconds)));
}

/** Describes a step's strength; empty at full strength. `share`: 0–1. */
export const strengthInWords = (share: number): string => (share < 1 ? `, at ${Math.round(100 * share)} %` : '');

/** A description of a grade: its effective steps, in the order in which they are applied. */
export function stepsInWords(
  steps: readonly Step[],
  ownerOf: (id: string) => Owner | null = () => null,
): StepInWords[] {
  const regions = new Map(steps.filter((s) => s.kind === 'region').map((s) => [s.id, s]));
  return steps
    .filter((s) => !hasNoEffect(s))
    .map((step) => {
      const kind = stepKind(step.kind);
      const region = step.region === undefined ? undefined : regions.get(step.region);
      return {
        title: step.label ?? kind.title,
        owner: ownerOf(step.id),
        summary: summaryOf(step),
        numbers: numbersOf(step),
        strength: step.strength,
        region: region ? (region.label ?? 'Region') : null,
      };
    });
}
