import { z } from 'zod';
import { stepsSchema } from './grade';
import { idSchema } from './outing';
import { profileSchema } from './profile';

/** The role of a table: conversion to standard video, or a look. */
export const LUT_ROLES = ['technical', 'look'] as const;
export type LutRole = (typeof LUT_ROLES)[number];

const titleSchema = z.string().trim().min(1, 'A name is needed.').max(120);
const groupSchema = z.string().trim().max(60);
const noteSchema = z.string().trim().max(400);

const common = {
  /** Of a table: the SHA-256 of its file. */
  id: idSchema,
  title: titleSchema,
  /** Its group on the shelf; empty: none. */
  group: groupSchema,
  note: noteSchema,
};

/** A table on the shelf; its file is fetched by its id. `note` describes it: "33³ cube". */
export const shelfLutSchema = z.object({ ...common, kind: z.literal('lut'), role: z.enum(LUT_ROLES) });
/** A named set of steps. */
export const shelfRecipeSchema = z.object({ ...common, kind: z.literal('recipe'), steps: stepsSchema });
/** How a camera encodes light. */
export const shelfProfileSchema = z.object({ ...common, kind: z.literal('profile'), profile: profileSchema });

/** An item on the shelf, for use on any clip. */
export const shelfItemSchema = z.discriminatedUnion('kind', [shelfLutSchema, shelfRecipeSchema, shelfProfileSchema]);
export type ShelfItem = z.infer<typeof shelfItemSchema>;
export type ShelfKind = ShelfItem['kind'];
export type ShelfLut = z.infer<typeof shelfLutSchema>;
export type ShelfRecipe = z.infer<typeof shelfRecipeSchema>;
export type ShelfProfile = z.infer<typeof shelfProfileSchema>;

/** Editable properties of an item. `role` applies to tables only. */
export const shelfPatch = z
  .object({ title: titleSchema, group: groupSchema, note: noteSchema, role: z.enum(LUT_ROLES) })
  .partial();
export type ShelfPatch = z.infer<typeof shelfPatch>;

const made = { group: groupSchema.default(''), note: noteSchema.default('') };
/** A recipe or a profile created here rather than imported. */
export const shelfRequest = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('recipe'),
    title: titleSchema,
    steps: stepsSchema.refine((steps) => steps.length > 0, 'A recipe has at least one step.'),
    ...made,
  }),
  z.object({ kind: z.literal('profile'), profile: profileSchema, ...made }),
]);
export type ShelfRequest = z.infer<typeof shelfRequest>;
