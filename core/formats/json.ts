import type { z } from 'zod';
import { gradeSchema, type Grade } from '../model/grade';
import { profileSchema, type Profile } from '../model/profile';
import { FormatError } from './error';

/** No file of this kind is larger, in characters. */
const LIMIT = 4_000_000;

function readJson<T>(text: string, schema: z.ZodType<T>, what: string): T {
  if (text.length > LIMIT) throw new FormatError(`This ${what} is larger than ${LIMIT / 1e6} MB.`);
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    throw new FormatError(`This ${what} is not valid JSON: ${(error as Error).message}`);
  }
  const parsed = schema.safeParse(data);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw new FormatError(`This ${what} has a wrong value at ${issue.path.join('.') || 'its top'}: ${issue.message}`);
  }
  return parsed.data;
}

/** Reads grade JSON. Throws a {@link FormatError} that names the element; never returns half a grade. */
export const readGrade = (text: string): Grade => readJson(text, gradeSchema, 'grade');
/** Reads profile JSON. Throws a {@link FormatError} that names the element. */
export const readProfile = (text: string): Profile => readJson(text, profileSchema, 'profile');
export const writeGrade = (grade: Grade): string => `${JSON.stringify(grade, null, 2)}\n`;
export const writeProfile = (profile: Profile): string => `${JSON.stringify(profile, null, 2)}\n`;
