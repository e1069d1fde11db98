import { existsSync, readFileSync } from 'node:fs';
import { FormatError } from '@inkavo/core/formats/error';
import { readGrade } from '@inkavo/core/formats/json';
import type { Grade } from '@inkavo/core/model/grade';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { CallError } from './call';

/** Reads the grade named by --grade. */
export function gradeFrom(path: string | undefined): Grade {
  if (!path) throw new CallError('--grade FILE is needed.');
  if (!existsSync(path)) throw new CallError(`There is no grade file "${path}".`);
  try {
    const grade = readGrade(readFileSync(path, 'utf8'));
    for (const [id, text] of Object.entries(grade.luts ?? {})) provideLut(id, text);
    return grade;
  } catch (error) {
    if (error instanceof FormatError) throw new CallError(`${path}: ${error.message}`);
    throw error;
  }
}
