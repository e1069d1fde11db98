import { randomFrom } from '@inkavo/core/random';

/** Deterministic random numbers. */
export interface Random {
  /** Uniform between two numbers. */
  between(low: number, high: number): number;
  /** Log-uniform between two numbers above 0. */
  scaled(low: number, high: number): number;
  /** Normal with this standard deviation. */
  normal(deviation: number): number;
  /** One of a list. */
  of<T>(list: readonly T[]): T;
  /** True with a probability. */
  chance(probability: number): boolean;
  /** An integer to seed something else. */
  seed(): number;
}

export function random(seed: number): Random {
  const next = randomFrom(seed * 2654435761);
  for (let i = 0; i < 4; i += 1) next();
  const between = (low: number, high: number): number => low + (high - low) * next();
  return {
    between,
    scaled: (low, high) => Math.exp(between(Math.log(low), Math.log(high))),
    normal: (deviation) => deviation * Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next()),
    of: (list) => list[Math.floor(next() * list.length)],
    chance: (probability) => next() < probability,
    seed: () => Math.floor(next() * 2 ** 31),
  };
}
