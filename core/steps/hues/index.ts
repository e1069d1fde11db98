import { z } from 'zod';
import { luma709 } from '../../colour/ycbcr';
import { numberShape } from '../numbers';
import { monotoneCubic } from '../shared/tone';
import type { NumberSpec, StepKind } from '../types';

const TURN = 2 * Math.PI;

/** A change of one hue. Angles are in turns, 0–1, from +Cb towards +Cr, as on the vectorscope. */
export const stemSchema = z.object({
  hue: z.number().min(0).max(1),
  /** Half width of its range, in turns. */
  reach: z.number().min(0.01).max(0.5).default(0.08),
  /** Hue shift, in turns. */
  turn: z.number().min(-0.25).max(0.25).default(0),
  /** Saturation factor. */
  saturation: z.number().min(0).max(4).default(1),
  /** Lightness added to luma for a fully saturated colour. */
  lightness: z.number().min(-0.4).max(0.4).default(0),
  /** Protects this hue from the other stems. */
  locked: z.boolean().default(false),
});
export type Stem = z.infer<typeof stemSchema>;

/** Curve values at 0, ¼, ½, ¾ and 1. */
const five = (neutral: number, min: number, max: number) =>
  z.array(z.number().min(min).max(max)).length(5).default([neutral, neutral, neutral, neutral, neutral]);

const numbers = [
  { key: 'turnAll', label: 'Turn all hues', unit: 'percent', min: -0.5, max: 0.5, neutral: 0, step: 0.005 },
] as const satisfies readonly NumberSpec[];

const schema = z.object({
  ...numberShape(numbers),
  stems: z.array(stemSchema).max(24).default([]),
  /** Saturation (factor) over lightness; lightness (added) over saturation; saturation (factor) over saturation. */
  saturationOverLightness: five(1, 0, 4),
  lightnessOverSaturation: five(0, -0.4, 0.4),
  saturationOverSaturation: five(1, 0, 4),
});
type Params = z.infer<typeof schema>;

/** Circular distance of two hues, in turns, 0–0.5. */
export function hueDistance(a: number, b: number): number {
  const d = Math.abs(a - b) % 1;
  return d > 0.5 ? 1 - d : d;
}

/** Weight of a stem at a distance, 0–1: a raised cosine, zero beyond its range. */
const weightAt = (distance: number, reach: number): number =>
  distance >= reach ? 0 : 0.5 * (1 + Math.cos((Math.PI * distance) / reach));

const PLACES = [0, 0.25, 0.5, 0.75, 1];
const curveOver = (values: readonly number[], neutral: number): ((x: number) => number) | undefined => {
  if (values.every((v) => v === neutral)) return undefined;
  const curve = monotoneCubic(PLACES, values);
  return (x) => curve(Math.min(1, Math.max(0, x)));
};

const stemIsNeutral = (s: Stem): boolean => s.turn === 0 && s.saturation === 1 && s.lightness === 0;

/**
 * Changes ranges of hues, on encoded values at constant luma except for "lightness". The hue circle is continuous.
 * Colours outside a stem's range are unaffected by it; a locked stem protects its hue from the others.
 */
export const hues: StepKind<Params> = {
  kind: 'hues',
  title: 'Hues',
  help: 'One hue at a time: its hue, saturation and lightness; others, such as skin, can be held.',
  domain: 'encoded',
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) =>
    p.turnAll === 0 &&
    p.stems.every(stemIsNeutral) &&
    [p.saturationOverLightness, p.saturationOverSaturation].every((c) => c.every((v) => v === 1)) &&
    p.lightnessOverSaturation.every((v) => v === 0),
  prepare(p) {
    const active = p.stems.filter((s) => !stemIsNeutral(s) && !s.locked);
    const locked = p.stems.filter((s) => s.locked);
    const byLightness = curveOver(p.saturationOverLightness, 1);
    const bySaturation = curveOver(p.saturationOverSaturation, 1);
    const lightnessBySaturation = curveOver(p.lightnessOverSaturation, 0);
    return (rgb) => {
      const y = luma709(rgb[0], rgb[1], rgb[2]);
      const cb = (rgb[2] - y) / 1.8556;
      const cr = (rgb[0] - y) / 1.5748;
      const chroma = Math.hypot(cb, cr);
      if (chroma === 0 && !lightnessBySaturation) return;
      const hue = (Math.atan2(cr, cb) / TURN + 1) % 1;
      const saturation = Math.min(1, chroma / 0.5);
      let turn = p.turnAll;
      let gain = 1;
      let lift = 0;
      let free = 1;
      for (const s of locked) free *= 1 - weightAt(hueDistance(hue, s.hue), s.reach);
      for (const s of active) {
        const w = free * weightAt(hueDistance(hue, s.hue), s.reach);
        if (w === 0) continue;
        turn += w * s.turn;
        gain *= 1 + w * (s.saturation - 1);
        lift += w * s.lightness * saturation;
      }
      if (byLightness) gain *= byLightness(y);
      if (bySaturation) gain *= bySaturation(saturation);
      if (lightnessBySaturation) lift += lightnessBySaturation(saturation);
      if (turn === 0 && gain === 1 && lift === 0) return;
      const [c, s] = [Math.cos(turn * TURN) * gain, Math.sin(turn * TURN) * gain];
      const u = cb * c - cr * s;
      const v = cb * s + cr * c;
      const l = y + lift;
      rgb[0] = l + 1.5748 * v;
      rgb[2] = l + 1.8556 * u;
      rgb[1] = l - (0.2126 * 1.5748 * v + 0.0722 * 1.8556 * u) / 0.7152;
    };
  },
  summary(p) {
    if (hues.isNeutral(p)) return 'neutral';
    const stems = p.stems.filter((s) => !stemIsNeutral(s)).length;
    return stems ? `${stems} stem${stems === 1 ? '' : 's'}` : 'curves';
  },
};
