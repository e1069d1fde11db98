import { z } from 'zod';
import type { NumberSpec } from './types';

/** Frame width in which small lengths are displayed; they are stored as shares of the frame's width. */
export const FRAME_WIDTH = 1920;

/** A Zod object with one limited number per spec, defaulting to the neutral value. */
export function numberShape<K extends string>(
  specs: readonly (NumberSpec & { key: K })[],
): Record<K, z.ZodDefault<z.ZodNumber>> {
  return Object.fromEntries(specs.map((s) => [s.key, z.number().min(s.min).max(s.max).default(s.neutral)])) as Record<
    K,
    z.ZodDefault<z.ZodNumber>
  >;
}

const trim = (value: number, digits: number): string => value.toFixed(digits).replace('-', '−');
const signed = (value: number, digits: number): string => (value > 0 ? '+' : '') + trim(value, digits);

/** Formats a stored value with its unit. */
export function formatNumber(spec: Pick<NumberSpec, 'unit' | 'min'>, value: number): string {
  switch (spec.unit) {
    case 'stop':
      return `${signed(value, 2)} stop`;
    case 'percent':
      return `${spec.min < 0 ? signed(value * 100, 1) : trim(value * 100, 1)} %`;
    case 'kelvin':
      return `${Math.round(value)} K`;
    case 'duv':
      return signed(value, 4);
    case 'metre':
      return `${trim(value, 1)} m`;
    case 'second':
      return `${trim(value, 1)} s`;
    case 'factor':
      return `×${trim(value, 2)}`;
    case 'pixel':
      return `${trim(value * FRAME_WIDTH, 2)} px`;
    case 'whole':
      return trim(value, 0);
    default:
      return trim(value, 2);
  }
}

/** Converts a displayed number to a stored value. */
export const toStored = ({ unit }: Pick<NumberSpec, 'unit'>, shown: number): number =>
  unit === 'percent' ? shown / 100 : unit === 'pixel' ? shown / FRAME_WIDTH : shown;

/** Parses a typed number to a stored value, clamped to the limits; undefined if it is not a number. */
export function parseNumber(spec: Pick<NumberSpec, 'unit' | 'min' | 'max'>, text: string): number | undefined {
  const plain = text
    .replace('−', '-')
    .replace(',', '.')
    .replace(/[^0-9.+-]/g, '');
  if (!/\d/.test(plain)) return undefined;
  const typed = Number(plain);
  if (!Number.isFinite(typed)) return undefined;
  const stored = toStored(spec, typed);
  return Math.min(spec.max, Math.max(spec.min, stored));
}

/** A stored value as initial text of a keypad: without unit, with the displayed precision. */
export const editableNumber = (spec: Pick<NumberSpec, 'unit' | 'min'>, value: number): string =>
  formatNumber(spec, value)
    .replace('−', '-')
    .replace(/[^0-9.+-]/g, '')
    .replace('+', '');
