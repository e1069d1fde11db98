import { z } from 'zod';
import { joinSteps, overridesSchema, stepsSchema, type Step } from './grade';

/** The owner of a step. */
export type Owner = 'clip' | 'camera' | 'outing';
/** In the order in which their steps are applied. */
export const OWNERS = ['camera', 'clip', 'outing'] as const satisfies readonly Owner[];

/** The steps of a clip, its camera and its outing, and the clip's overrides of inherited steps. */
export const stepListsSchema = z.object({
  camera: stepsSchema,
  clip: stepsSchema,
  outing: stepsSchema,
  overrides: overridesSchema,
});
export type StepLists = z.infer<typeof stepListsSchema>;

/** All steps applied to a frame of the clip, in order. */
export const joined = ({ camera, clip, outing, overrides }: StepLists): Step[] =>
  joinSteps(camera, clip, outing, overrides);
