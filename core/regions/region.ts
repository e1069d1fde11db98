import { z } from 'zod';
import { isKeyframed, keyframedSchema, valueAt } from './keyframes';
import { matteSchema } from './matte';
import { shapeSchema } from './shape';

/** Maximum size of specks as a share of the frame's width: 96 pixels of 1920. */
export const MOST_CLEAN = 0.05;

/**
 * How shapes and the selection by colour and lightness are combined: intersection, union, or the shapes minus the
 * selection.
 */
export const JOINS = ['both', 'either', 'without'] as const;

/** Where steps act. Steps refer to it by its id, so that several share one outline. */
export const regionSchema = z.object({
  shapes: z.array(shapeSchema).max(12).default([]),
  /** By colour and lightness, of a colour as it enters the step. */
  matte: matteSchema.optional(),
  /** Maximum size of specks and holes removed from the selection, as a share of the frame's width; 0: none. */
  clean: z.number().min(0).max(MOST_CLEAN).default(0),
  join: z.enum(JOINS).default('both'),
  inverted: z.boolean().default(false),
  /** Strength of its steps; keyframes limit a region in time. */
  strength: z.union([z.number().min(0).max(1), keyframedSchema]).default(1),
});
export type Region = z.infer<typeof regionSchema>;

const checked = new WeakMap<object, Region>();
/** The region of a step's parameters, with defaults. Validated once per object: a tracked region has many keys. */
export function checkedRegion(params: object): Region {
  const known = checked.get(params) ?? regionSchema.parse(params);
  checked.set(params, known);
  return known;
}

/** The kind under which a region is stored among the steps of a list. It has no effect itself. */
export const REGION = 'region';

/** A region resolved at a time of the clip. */
export interface RegionAt {
  id: string;
  region: Region;
  strength: number;
}

export function strengthAt({ strength }: Region, seconds: number): number {
  const v = isKeyframed(strength) ? valueAt(strength, seconds) : strength;
  return Math.min(1, Math.max(0, v));
}

/** Whether anything of it moves or changes over the clip. */
export const regionMoves = ({ shapes, strength }: Partial<Region>): boolean =>
  isKeyframed(strength) || (shapes ?? []).some((s) => s.keys.length > 1);

/**
 * Share of a step for a pixel, from the shapes' mask (m) and the selection by colour (a), both 0–1: j0 + j1 · m + j2 ·
 * a + j3 · m · a.
 */
export type Join = readonly [j0: number, j1: number, j2: number, j3: number];

/** The same share everywhere. */
export const evenly = (strength: number): Join => [strength, 0, 0, 0];
/** The selection by colour alone. */
export const BY_COLOUR: Join = [0, 0, 1, 0];

/** The join of a region; without shapes m counts as 1, without a matte a does. */
export function joinOf({ shapes, matte, join, inverted }: Region, strength: number): Join {
  const both: Join = [0, 0, 0, 1];
  const of: Join = !shapes.length
    ? matte
      ? BY_COLOUR
      : evenly(1)
    : !matte
      ? [0, 1, 0, 0]
      : { both, either: [0, 1, 1, -1] as Join, without: [0, 1, 0, -1] as Join }[join];
  const sign = inverted ? -1 : 1;
  return of.map((j, i) => strength * ((inverted && i === 0 ? 1 : 0) + sign * j)) as unknown as Join;
}

export const amountOf = (j: Join, m: number, a: number): number => j[0] + j[1] * m + j[2] * a + j[3] * m * a;
