import { z } from 'zod';
import { joinSteps, overridesSchema, stepsSchema, type Step } from './grade';

/** Whose a step is. */
export type Owner = 'clip' | 'camera' | 'outing';
/** In the order in which a frame passes their steps. */
export const OWNERS = ['camera', 'clip', 'outing'] as const satisfies readonly Owner[];

/** The steps of a clip, its camera and its outing, and what the clip changes about those it inherits. */
export const stepListsSchema = z.object({
  camera: stepsSchema,
  clip: stepsSchema,
  outing: stepsSchema,
  overrides: overridesSchema,
});
export type StepLists = z.infer<typeof stepListsSchema>;

/** All steps that a frame of the clip passes, in order. */
export const joined = ({ camera, clip, outing, overrides }: StepLists): Step[] =>
  joinSteps(camera, clip, outing, overrides);
