import { z } from 'zod';
import type { StepKind } from '../types';
import { knownLut } from './library';

const schema = z.object({
  /** Id of the table; null: none chosen yet. */
  lut: z
    .string()
    .regex(/^[\w-]{1,80}$/)
    .nullable()
    .default(null),
  /** Its name, for the chip and for messages when it is missing. */
  title: z.string().max(200).default(''),
});
type Params = z.infer<typeof schema>;

/**
 * A 1D or 3D table or a list of process nodes from a file, on encoded values. It may be first, as a technical table
 * that converts a profile, or anywhere later.
 */
export const lut: StepKind<Params> = {
  kind: 'lut',
  title: 'LUT',
  help: 'A table from a file, .cube or CLF: to convert a profile, or for a look. Its strength can be lowered.',
  domain: 'encoded',
  schema,
  numbers: [],
  neutral: schema.parse({}),
  isNeutral: (p) => p.lut === null,
  prepare(p) {
    const file = p.lut === null ? undefined : knownLut(p.lut);
    if (!file) throw new RangeError(`The LUT "${p.title || p.lut}" is not here. Bring it in, or remove the step.`);
    return file.apply;
  },
  summary: (p) => (p.lut === null ? 'none chosen' : p.title || 'LUT'),
};
