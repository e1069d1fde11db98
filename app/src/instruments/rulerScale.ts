import type { NumberSpec } from '@inkavo/core/steps';

type Spec = Pick<NumberSpec, 'min' | 'max' | 'step' | 'neutral'>;

/** Pixels between two ticks; one tick is one nudge, or five of them where the range is long. */
const TICK_PIXELS = 9;
/** A nudge or a drag with the shift key, or far from the row, moves by this share. */
const FINE = 0.1;
/** Distance from the row, in pixels, at which a drag is half as fast. */
const HALF_SPEED = 60;

/** A ruler never needs more than about this many ticks from end to end. */
const MAX_TICKS = 400;

/** How far apart the values on a ruler lie. */
export function scaleOf({ min, max, step }: Spec): { tick: number; pixelsPerUnit: number } {
  const tick = (max - min) / step > MAX_TICKS ? step * 2 : step;
  return { tick, pixelsPerUnit: TICK_PIXELS / tick };
}

const hold = ({ min, max }: Spec, value: number): number => Math.min(max, Math.max(min, value));
/** Rounds off what adding fractions leaves behind. */
const clean = (value: number): number => Number(value.toFixed(6));

/** The value after a drag by `dx` pixels, `away` pixels from the row. The line is pulled, so left is more. */
export function dragValue(spec: Spec, value: number, dx: number, away: number, fine: boolean): number {
  const speed = (fine ? FINE : 1) / (1 + Math.max(0, away - 24) / HALF_SPEED);
  return clean(hold(spec, value - (dx * speed) / scaleOf(spec).pixelsPerUnit));
}

/** The value after nudges. */
export const nudge = (spec: Spec, value: number, steps: number, fine: boolean): number =>
  clean(hold(spec, value + steps * spec.step * (fine ? FINE : 1)));

/** Where ticks stand around a value on a ruler of a width; every tenth from the neutral value is strong. */
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
