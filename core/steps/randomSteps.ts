import { newStep, stepSchema, type Step } from '../model/grade';
import { randomFrom } from '../random';
import { REGION } from '../regions/region';
import { shapeSchema } from '../regions/shape';
import { PROFILES } from '../model/profile';
import { stepKind, type NumberSpec } from '.';

type Random = ReturnType<typeof randomFrom>;
const between = (random: Random, low: number, high: number): number => low + (high - low) * random();

/** A value within the limits, more often near neutral than near a limit, as in practice. */
const valueFor = (random: Random, { min, max, neutral }: NumberSpec): number =>
  neutral + (random() < 0.5 ? min - neutral : max - neutral) * random() ** 2 * 0.9;

/** Non-numeric parameters of a kind. `lut`: id of a registered table. */
function othersFor(random: Random, kind: string, lut: string): Record<string, unknown> {
  const points = (): { x: number; y: number }[] =>
    [0, 0.3, 0.7, 1].map((x) => ({ x, y: Math.min(1, Math.max(0, x + between(random, -0.12, 0.12))) }));
  if (kind === 'convert') return { profile: PROFILES[Math.floor(random() * PROFILES.length)] };
  if (kind === 'curves') return { all: points(), red: points() };
  return kind === 'lut' ? { lut } : {};
}

/** Region of a generated step. */
export const PLACES = [
  'everywhere',
  'by lightness',
  'in a shape',
  'in a shape or by lightness, inverted',
  'by lightness without specks',
] as const;
export type Place = (typeof PLACES)[number];

/** A number with keyframes in the first second. */
const moving = (from: number, to: number): object => ({
  keys: [
    { seconds: 0, value: from, ease: 'smooth' },
    { seconds: 1, value: to },
  ],
});

/**
 * A step of a kind, with the region it needs, with random parameters, strength and region; half of them with a
 * keyframed number. Deterministic by seed.
 */
export function randomSteps(kind: string, seed: number, place: Place, lut = ''): Step[] {
  const random = randomFrom(seed);
  const { numbers, choices = [] } = stepKind(kind);
  const params: Record<string, unknown> = othersFor(random, kind, lut);
  for (const spec of numbers) params[spec.key] = valueFor(random, spec);
  for (const { key, options } of choices) params[key] = options[Math.floor(random() * options.length)].value;
  const keyed = random() < 0.5 ? numbers[Math.floor(random() * numbers.length)] : undefined;
  if (keyed) params[keyed.key] = moving(params[keyed.key] as number, valueFor(random, keyed));
  const strength = random() < 0.5 ? 1 : between(random, 0.2, 0.9);
  const step = { ...newStep(kind, `${kind}-${seed}`), params: { ...newStep(kind, 'n').params, ...params }, strength };
  const lightness = { lightness: { low: 0.35, high: 0.9, soft: 0.2 } };
  if (place === 'everywhere') return [stepSchema.parse(step)];
  if (place === 'by lightness') return [stepSchema.parse({ ...step, matte: lightness })];
  if (place === 'by lightness without specks') {
    const region = newStep(REGION, `${kind}-where`, { matte: lightness, clean: between(random, 0.005, 0.05) });
    return [region, stepSchema.parse({ ...step, region: region.id })];
  }
  const key = (): object => ({
    x: between(random, 0.3, 0.7),
    y: between(random, 0.2, 0.4),
    width: between(random, 0.2, 0.5),
    height: between(random, 0.15, 0.4),
    turn: between(random, -60, 60),
    feather: between(random, 0.02, 0.2),
  });
  const shape = shapeSchema.parse({
    id: 'shape',
    kind: random() < 0.5 ? 'ellipse' : 'rectangle',
    keys: [
      { seconds: 0, ...key() },
      { seconds: 2, ...key() },
    ],
  });
  const joined = place === 'in a shape' ? {} : { matte: lightness, join: 'either', inverted: true };
  const region = newStep(REGION, `${kind}-where`, { shapes: [shape], ...joined });
  return [region, stepSchema.parse({ ...step, region: region.id })];
}
