import { z } from 'zod';

/** One value at one time of the clip. */
export const keySchema = z.object({
  /** Seconds from the clip's first frame. */
  seconds: z.number().min(0),
  value: z.number(),
  /** Interpolation from here to the next key. */
  ease: z.enum(['linear', 'smooth', 'hold']).default('linear'),
});

/** A number that changes over the clip: keys in increasing order of time. */
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

/** The value of a keyframed number at a time; constant before the first and after the last key. */
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

/** Times closer than this, in seconds, are equal: less than half a frame at 120 frames per second. */
const SAME = 0.004;

/** The key at a time, or undefined. */
export const keyAt = ({ keys }: Keyframed, seconds: number): Keyframed['keys'][number] | undefined =>
  keys.find((k) => Math.abs(k.seconds - seconds) < SAME);

/** Sets a key at a time: changes the existing one, or inserts one that interpolates like its neighbour. */
export function withKey(number: Keyframed, seconds: number, value: number): Keyframed {
  const here = keyAt(number, seconds);
  if (here) return { keys: number.keys.map((k) => (k === here ? { ...k, value } : k)) };
  const before = number.keys.findLast((k) => k.seconds < seconds) ?? number.keys[0];
  const keys = [...number.keys, { seconds: Math.max(0, seconds), value, ease: before.ease }];
  return { keys: keys.sort((a, b) => a.seconds - b.seconds) };
}

/** Removes a key; removing the last one leaves a plain number. */
export function withoutKey(number: Keyframed, key: Keyframed['keys'][number]): Keyframed | number {
  const keys = number.keys.filter((k) => k !== key);
  return keys.length > 0 ? { keys } : key.value;
}

/** Moves a key in time, at most up to its neighbours. */
export function withMovedKey(
  number: Keyframed,
  index: number,
  { seconds, value }: { seconds: number; value: number },
): Keyframed {
  const { keys } = number;
  const low = index > 0 ? keys[index - 1].seconds + SAME * 2 : 0;
  const high = index < keys.length - 1 ? keys[index + 1].seconds - SAME * 2 : Infinity;
  const held = Math.min(high, Math.max(low, seconds));
  return { keys: keys.map((k, i) => (i === index ? { ...k, seconds: held, value } : k)) };
}

/** Parameters with every keyframed number replaced by its value at a time. */
export function resolveParams(params: Record<string, unknown>, seconds: number): Record<string, unknown> {
  return Object.fromEntries(Object.entries(params).map(([key, v]) => [key, isKeyframed(v) ? valueAt(v, seconds) : v]));
}
