import { z } from 'zod';
import { matteSchema } from '../regions/matte';
import { isKeyframed, keyframedSchema, resolveParams } from '../regions/keyframes';
import { REGION, regionSchema } from '../regions/region';
import { ALL_KINDS, stepKind } from '../steps';
import { lutTexts } from '../steps/lut/library';
import { presentVersion, upgradeStep } from './upgrade';

export const stepIdSchema = z.string().regex(/^[\w-]{1,64}$/);

/**
 * One correction, in the current version of its kind. Numbers among the parameters may be keyframed; limits apply to
 * every key.
 */
const presentStep = z
  .object({
    id: stepIdSchema,
    kind: z.enum(ALL_KINDS.map((k) => k.kind) as [string, ...string[]]),
    label: z.string().max(60).optional(),
    on: z.boolean().default(true),
    /** A shared step that acts only in clips that opt in. */
    limited: z.boolean().optional(),
    strength: z.number().min(0).max(1).default(1),
    /** Added by a first pass and not edited since. */
    proposed: z.boolean().optional(),
    params: z.record(z.string(), z.unknown()).default({}),
    /** Version of the parameters; 1 if absent. */
    version: z.number().int().min(1).optional(),
    /** Limits where it acts, by colour and lightness; absent: everywhere. */
    matte: matteSchema.optional(),
    /** Id of the region in which it acts, a step of kind `region` in the same grade; absent: everywhere. */
    region: stepIdSchema.optional(),
  })
  .superRefine((step, ctx) => {
    if (step.region !== undefined && step.matte !== undefined)
      ctx.addIssue({ code: 'custom', path: ['matte'], message: 'A step has a region or a matte, not both.' });
    if (stepKind(step.kind).ofSource && (step.region !== undefined || step.matte !== undefined))
      ctx.addIssue({ code: 'custom', path: ['region'], message: 'This step acts on the whole frame.' });
    if ((step.version ?? 1) > presentVersion(step.kind)) {
      const message = 'This step was made by a newer version of the program.';
      return ctx.addIssue({ code: 'custom', path: ['version'], message });
    }
    for (const problem of paramProblems(step.kind, step.params)) {
      ctx.addIssue({ code: 'custom', path: ['params', ...problem.path], message: problem.message });
    }
  })
  // Outlines are drawn and dragged from the stored values: missing ones are filled in here.
  .transform((step) => (step.kind === REGION ? { ...step, params: { ...regionSchema.parse(step.params) } } : step));

/** A step of any version, upgraded to the current one. */
export const stepSchema = z.preprocess((step) => upgradeStep(step), presentStep);

export type Step = z.infer<typeof stepSchema>;

function paramProblems(kindName: string, params: Record<string, unknown>): { path: PropertyKey[]; message: string }[] {
  const kind = stepKind(kindName);
  const times = new Set<number>([0]);
  for (const [key, value] of Object.entries(params)) {
    if (!isKeyframed(value)) continue;
    if (!kind.numbers.some((n) => n.key === key)) return [{ path: [key], message: 'cannot carry keyframes' }];
    const parsed = keyframedSchema.safeParse(value);
    if (!parsed.success) return [{ path: [key], message: parsed.error.issues[0].message }];
    value.keys.forEach((k) => times.add(k.seconds));
  }
  for (const seconds of times) {
    const parsed = kind.schema.safeParse(resolveParams(params, seconds));
    if (!parsed.success) return parsed.error.issues.map((i) => ({ path: i.path, message: i.message }));
  }
  return [];
}

/** Maximum number of steps of a clip, a camera or an outing. */
export const MOST_STEPS = 64;

export const stepsSchema = z
  .array(stepSchema)
  .max(MOST_STEPS)
  .refine((steps) => new Set(steps.map((s) => s.id)).size === steps.length, 'Two steps have the same id.');

/** Format name and version of a grade file. */
export const GRADE_FORMAT = 'inkavo-grade';
export const GRADE_VERSION = 1;

/** The steps applied to a frame, in order; stored, sent, exported and tested in this form. */
export const gradeSchema = z.object({
  format: z.literal(GRADE_FORMAT),
  version: z.literal(GRADE_VERSION),
  name: z.string().max(120).optional(),
  steps: stepsSchema,
  /** Text of the tables that LUT steps use, by id. */
  luts: z.record(z.string(), z.string()).optional(),
});

export type Grade = z.infer<typeof gradeSchema>;

/** A grade with the tables that its steps use, so that the file is self-contained. */
export function gradeOf(steps: Step[], name?: string): Grade {
  const luts = lutTexts(steps);
  return {
    format: GRADE_FORMAT,
    version: GRADE_VERSION,
    ...(name ? { name } : {}),
    steps,
    ...(Object.keys(luts).length ? { luts } : {}),
  };
}

/** A named list of steps for reuse. */
export const RECIPE_FORMAT = 'inkavo-recipe';
export const recipeSchema = z.object({
  format: z.literal(RECIPE_FORMAT),
  version: z.literal(GRADE_VERSION),
  name: z.string().trim().min(1).max(120),
  /** Its purpose, in a sentence. */
  note: z.string().max(400).optional(),
  steps: stepsSchema.refine((steps) => steps.length > 0, 'A recipe has at least one step.'),
  luts: z.record(z.string(), z.string()).optional(),
});
export type Recipe = z.infer<typeof recipeSchema>;

/** A clip's override of a step it inherits from its camera or outing. */
export const overrideSchema = z.object({
  on: z.boolean().optional(),
  strength: z.number().min(0).max(1).optional(),
  /** The step is detached from its owner in this clip: these parameters replace the owner's. */
  params: z.record(z.string(), z.unknown()).optional(),
  /** Version of these parameters; 1 if absent. */
  version: z.number().int().min(1).optional(),
});
export type Override = z.infer<typeof overrideSchema>;
/** By the id of the inherited step. */
export const overridesSchema = z.record(z.string().max(64), overrideSchema);
export type Overrides = Record<string, Override>;

/** Cache of detached steps: the same step and override give the same object, so that memoised views are stable. */
const looseSteps = new WeakMap<Override, { of: Step; made: Step }>();

/** An inherited step with the clip's own parameters if it is detached there; otherwise unchanged. */
export function detached(step: Step, here: Override | undefined): Step {
  if (!here?.params) return step;
  const known = looseSteps.get(here);
  if (known?.of === step) return known.made;
  const loose = { ...step, params: here.params };
  delete loose.version;
  const made = upgradeStep({ ...loose, ...(here.version ? { version: here.version } : {}) }) as Step;
  looseSteps.set(here, { of: step, made });
  return made;
}

/**
 * Whether an inherited step is on in a clip: by default unless the clip disables it; if limited, only where the clip
 * enables it.
 */
export const actsHere = (step: Step, here: Override | undefined): boolean =>
  step.on && (step.limited ? here?.on === true : here?.on !== false);

/** Camera steps, clip steps and outing steps as one list, with the clip's overrides applied to inherited steps. */
export function joinSteps(camera: Step[], clip: Step[], outing: Step[], overrides: Overrides = {}): Step[] {
  // A step disabled by its owner stays disabled; a strength here multiplies its own.
  const inherit = (s: Step): Step => {
    const here = overrides[s.id];
    if (!here && !s.limited) return s;
    return { ...detached(s, here), on: actsHere(s, here), strength: s.strength * (here?.strength ?? 1) };
  };
  return [...camera.map(inherit), ...clip, ...outing.map(inherit)];
}

/** A step of a kind with neutral or given parameters. */
export function newStep(kind: string, id: string, params: Record<string, unknown> = {}): Step {
  const version = presentVersion(kind);
  return stepSchema.parse({
    id,
    kind,
    params: { ...stepKind(kind).neutral, ...params },
    ...(version > 1 ? { version } : {}),
  });
}

/** Stored steps, each upgraded to the current version of its kind; nothing else is validated. */
export const storedSteps = (text: string): Step[] => (JSON.parse(text) as unknown[]).map((s) => upgradeStep(s) as Step);

/** Whether a step has no effect: off, zero strength, or neutral parameters. A region has no effect by itself. */
export function hasNoEffect({ kind, on, strength, params }: Step): boolean {
  if (!on || strength === 0 || kind === REGION) return true;
  if (Object.values(params).some(isKeyframed)) return false;
  return stepKind(kind).isNeutral(stepKind(kind).schema.parse(params));
}

/** Problems with the parameters of detached steps in a clip; undefined: none. */
export function detachedProblem(steps: readonly Step[], overrides: Overrides): string | undefined {
  for (const step of steps) {
    const here = overrides[step.id];
    if (!here?.params) continue;
    const parsed = stepSchema.safeParse({ ...step, params: here.params, version: here.version });
    if (!parsed.success) return `overrides.${step.id}: ${parsed.error.issues[0].message}`;
  }
  return undefined;
}
