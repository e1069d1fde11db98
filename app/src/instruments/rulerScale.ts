import type { NumberSpec } from '@inkavo/core/steps';

type Spec = Pick<NumberSpec, 'min' | 'max' | 'step' | 'neutral'>;

/** Pixels between ticks; a tick is one nudge, or five of them for long ranges. */
const TICK_PIXELS = 9;
/** Factor of a nudge or a drag with the shift key, or far from the row. */
const FINE = 0.1;
/** Distance from the row, in pixels, at which a drag is half as fast. */
const HALF_SPEED = 60;

/** Maximum number of ticks from end to end. */
const MAX_TICKS = 400;

/** Value per pixel of a ruler. */
export function scaleOf({ min, max, step }: Spec): { tick: number; pixelsPerUnit: number } {
  const tick = (max - min) / step > MAX_TICKS ? step * 2 : step;
  return { tick, pixelsPerUnit: TICK_PIXELS / tick };
}

const hold = ({ min, max }: Spec, value: number): number => Math.min(max, Math.max(min, value));
/** Removes rounding errors of repeated addition. */
const clean = (value: number): number => Number(value.toFixed(6));

/** The value after a drag by `dx` pixels, `away` pixels from the row. The scale is dragged, so left increases. */
export function dragValue(spec: Spec, value: number, dx: number, away: number, fine: boolean): number {
  const speed = (fine ? FINE : 1) / (1 + Math.max(0, away - 24) / HALF_SPEED);
  return clean(hold(spec, value - (dx * speed) / scaleOf(spec).pixelsPerUnit));
}

/** The value after nudges. */
export const nudge = (spec: Spec, value: number, steps: number, fine: boolean): number =>
  clean(hold(spec, value + steps * spec.step * (fine ? FINE : 1)));

/** Positions of ticks around a value on a ruler; every tenth from neutral is emphasised. */
export function tickPositions(spec: Spec, value: number, width: number): { x: number; strong: boolean }[] {
  const { tick, pixelsPerUnit } = scaleOf(spec);
  const half = width / 2 / pixelsPerUnit;
  const first = Math.ceil((Math.max(spec.min, value - half) - spec.neutral) / tick - 1e-6);
  const last = Math.floor((Math.min(spec.max, value + half) - spec.neutral) / tick + 1e-6);
  const ticks: { x: number; strong: boolean }[] = [];
  for (let i = first; i <= last; i += 1) {
    ticks.push({ x: width / 2 + (spec.neutral + i * tick - value) * pixelsPerUnit, strong: i % 10 === 0 });
  }
  return ticks;
}
