import type { z } from 'zod';
import { gradeSchema, recipeSchema, type Grade, type Recipe } from '../model/grade';
import { profileSchema, type Profile } from '../model/profile';
import { lutIds, readLut } from '../steps/lut/library';
import { FormatError } from './error';

/** Maximum file length in characters: fits a few tables of 65 nodes an edge. */
const LIMIT = 48_000_000;

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

/** Steps with the tables they use: every table must be present and valid. */
function withLuts<T extends Pick<Grade, 'steps' | 'luts'>>(read: T, what: string): T {
  for (const [id, text] of Object.entries(read.luts ?? {})) {
    try {
      readLut(text);
    } catch (error) {
      throw new FormatError(`This ${what} has a damaged table at luts.${id}: ${(error as Error).message}`);
    }
  }
  const missing = lutIds(read.steps).find((id) => !read.luts?.[id]);
  if (missing) throw new FormatError(`This ${what} uses the table "${missing}", which is not in its luts.`);
  return read;
}

/** Reads grade JSON. Throws a {@link FormatError} that names the element; never returns a partial grade. */
export const readGrade = (text: string): Grade => withLuts(readJson(text, gradeSchema, 'grade'), 'grade');
/** Reads recipe JSON. Throws a {@link FormatError} that names the element; never returns a partial recipe. */
export const readRecipe = (text: string): Recipe => withLuts(readJson(text, recipeSchema, 'recipe'), 'recipe');
/** Reads profile JSON. Throws a {@link FormatError} that names the element. */
export const readProfile = (text: string): Profile => readJson(text, profileSchema, 'profile');
const write = (data: object): string => `${JSON.stringify(data, null, 2)}\n`;
export const writeGrade = (grade: Grade): string => write(grade);
export const writeRecipe = (recipe: Recipe): string => write(recipe);
export const writeProfile = (profile: Profile): string => write(profile);
