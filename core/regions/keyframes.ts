import { z } from 'zod';

/** One value at one time of the clip. */
export const keySchema = z.object({
  /** Seconds from the clip's first frame. */
  seconds: z.number().min(0),
  value: z.number(),
  /** How the value goes on from here to the next key. */
  ease: z.enum(['linear', 'smooth', 'hold']).default('linear'),
});

/** A number that changes over the clip: keys with rising times. */
export const keyframedSchema = z.object({
  keys: z
    .array(keySchema)
    .min(1)
    .max(10000)
    .refine((keys) => keys.every((k, i) => i === 0 || k.seconds > keys[i - 1].seconds), 'Keyframe times must rise.'),
});

export type Keyframed = z.infer<typeof keyframedSchema>;

export const isKeyframed = (value: unknown): value is Keyframed =>
  typeof value === 'object' && value !== null && Array.isArray((value as Keyframed).keys);

/** The value of a keyframed number at a time; held before the first and after the last key. */
export function valueAt({ keys }: Keyframed, seconds: number): number {
  if (seconds <= keys[0].seconds) return keys[0].value;
  const last = keys[keys.length - 1];
  if (seconds >= last.seconds) return last.value;
  let i = 0;
  while (seconds >= keys[i + 1].seconds) i += 1;
  const [a, b] = [keys[i], keys[i + 1]];
  if (a.ease === 'hold') return a.value;
  const t = (seconds - a.seconds) / (b.seconds - a.seconds);
  return a.value + (b.value - a.value) * (a.ease === 'smooth' ? t * t * (3 - 2 * t) : t);
}

/** Parameters with every keyframed number replaced by its value at a time. */
export function resolveParams(params: Record<string, unknown>, seconds: number): Record<string, unknown> {
  return Object.fromEntries(Object.entries(params).map(([key, v]) => [key, isKeyframed(v) ? valueAt(v, seconds) : v]));
}
