import type { Step } from '../model/grade';
import { resolveParams } from '../regions/keyframes';
import { stepKind } from '../steps';
import type { Cdl } from './cdl';

type Three = [number, number, number];

const AFFINE: Record<string, (p: Record<string, number>) => { slope: Three; offset: Three } | undefined> = {
  range(p) {
    const others = ['exposure', 'mid', 'soft', 'level0', 'level1', 'level2', 'level3', 'level4'];
    if (others.some((k) => p[k] !== 0)) return undefined;
    const span = 1 + p.white - p.black;
    const [slope, offset] = [p.contrast * span, p.black + p.pivot * (1 - p.contrast) * span];
    return { slope: [slope, slope, slope], offset: [offset, offset, offset] };
  },
  channels(p) {
    const names = ['red', 'green', 'blue'] as const;
    if (names.some((n) => p[`${n}Middle`] !== 0)) return undefined;
    return {
      slope: names.map((n) => 1 + p[`${n}Top`] - p[`${n}Bottom`]) as Three,
      offset: names.map((n) => p[`${n}Bottom`]) as Three,
    };
  },
};

/**
 * The part of a grade that a CDL can express: leading range and channel steps that only scale and shift, then
 * saturation. `lost` names, in order, every step that a CDL cannot express; it is empty when the CDL is the whole
 * grade.
 */
export function gradeToCdl(steps: readonly Step[], id: string): { cdl: Cdl; lost: string[] } {
  const cdl: Cdl = { id, slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 1 };
  const lost: string[] = [];
  for (const step of steps) {
    const kind = stepKind(step.kind);
    const params = kind.schema.parse(resolveParams(step.params, 0)) as Record<string, number>;
    if (!step.on || step.strength === 0 || kind.isNeutral(params)) continue;
    const affine = AFFINE[step.kind]?.(params);
    const whole = step.strength === 1 && !step.matte && step.region === undefined;
    if (whole && affine && cdl.saturation === 1) {
      for (let i = 0; i < 3; i += 1) {
        cdl.offset[i] = cdl.offset[i] * affine.slope[i] + affine.offset[i];
        cdl.slope[i] *= affine.slope[i];
      }
    } else if (whole && step.kind === 'saturation' && params.weak === 0) cdl.saturation *= params.amount;
    else lost.push(step.label ?? kind.title);
  }
  return { cdl, lost };
}
