import { isIdle, type Step } from '../model/grade';
import type { Owner } from '../model/lists';
import { isKeyframed, resolveParams } from '../regions/keyframes';
import { stepKind } from '../steps';
import { formatNumber } from '../steps/numbers';

/** One step of a grade in words and numbers. */
export interface StepInWords {
  title: string;
  /** Whose it is, where that is known. */
  owner: Owner | null;
  /** In a few words, as its chip has it. */
  summary: string;
  /** Every number that is not neutral, as it is shown: "Black point −3 %". */
  numbers: string[];
  /** 0–1. */
  strength: number;
  /** Name of the region where it acts; null: everywhere. */
  region: string | null;
}

/** The numbers of a step that do something, each with its name; of moving ones the first value, and that it moves. */
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

/** What a step does at a time of the clip, in seconds, in a few words. */
export function summaryOf({ kind: name, params }: Step, seconds = 0): string {
  const kind = stepKind(name);
  return kind.summary(kind.schema.parse(resolveParams(params, seconds)));
}

/** What is said of a step's strength behind what it does: nothing where it is full. `share`: 0–1. */
export const strengthInWords = (share: number): string => (share < 1 ? `, at ${Math.round(100 * share)} %` : '');

/** A grade in words: its steps that do something, in the order in which a frame passes them. */
export function stepsInWords(
  steps: readonly Step[],
  ownerOf: (id: string) => Owner | null = () => null,
): StepInWords[] {
  const regions = new Map(steps.filter((s) => s.kind === 'region').map((s) => [s.id, s]));
  return steps
    .filter((s) => !isIdle(s))
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
