import type { Recipe } from '../model/grade';
import { GRADE_FORMAT, RECIPE_FORMAT } from '../model/grade';
import type { Profile } from '../model/profile';
import { readLut } from '../steps/lut/library';
import { readGrade, readProfile, readRecipe } from './json';

/** The content of a shelf file. A recipe comes with the texts of the tables that its steps use, by id. */
export type ShelfFile =
  | { kind: 'lut'; title: string; note: string }
  | { kind: 'recipe'; recipe: Recipe }
  | { kind: 'profile'; profile: Profile };

/**
 * The format that a JSON text declares; undefined if none, or if it is not JSON (the profile reader then reports why).
 */
function formatOf(text: string): unknown {
  try {
    return (JSON.parse(text) as { format?: unknown } | null)?.format;
  } catch {
    return undefined;
  }
}

/**
 * Reads a shelf file: a table (`.cube`, CLF), a recipe or a grade (which becomes a recipe), or a profile. The type is
 * detected from the content, not the name. `name`: of the file, for content without a title. Throws a FormatError that
 * says what is wrong and, in a table, on which line.
 */
export function readShelfFile(text: string, name: string): ShelfFile {
  const title = name.replace(/\.\w+$/, '').trim();
  if (!text.trimStart().startsWith('{')) {
    const lut = readLut(text);
    return { kind: 'lut', title: lut.title || title || 'LUT', note: lut.note };
  }
  const format = formatOf(text);
  if (format === RECIPE_FORMAT) return { kind: 'recipe', recipe: readRecipe(text) };
  if (format === GRADE_FORMAT) {
    const { steps, luts, version, name: own } = readGrade(text);
    const recipe: Recipe = { format: RECIPE_FORMAT, version, name: own?.trim() || title || 'Grade', steps };
    return { kind: 'recipe', recipe: { ...recipe, ...(luts ? { luts } : {}) } };
  }
  return { kind: 'profile', profile: readProfile(text) };
}
