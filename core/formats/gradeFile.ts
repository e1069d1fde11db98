import { gradeOf, type Step } from '../model/grade';
import { writeCc } from './cdl';
import { writeClf } from './clf/write';
import { writeCube } from './cube';
import { gradeToCdl } from './gradeCdl';
import { fitInTable, gradeToClf, gradeToLut } from './gradeLut';
import { writeGrade } from './json';

/** Open formats in which a grade can be written. */
export const GRADE_FORMATS = ['cube', 'clf', 'cc', 'json'] as const;
export type GradeFormat = (typeof GRADE_FORMATS)[number];

export interface GradeFileRequest {
  format: GradeFormat;
  /** Nodes an edge of a table, of {@link LUT_SIZES}. */
  size: number;
  /** Name of the clip, camera or recipe; a file extension is removed. */
  name: string;
  /** Omit and name steps that no table can express, instead of failing. */
  partly?: boolean;
}

/** A grade as a file, and the steps that the format cannot express. */
export interface GradeFile {
  fileName: string;
  text: string;
  lost: string[];
}

/**
 * Writes steps in an open format. A CDL expresses what it can; a table throws a FormatError where steps depend on
 * position or change over the clip, unless `partly` is set.
 */
export function gradeFile(steps: readonly Step[], { format, size, name, partly = false }: GradeFileRequest): GradeFile {
  const fileName = `${name.replace(/\.\w+$/, '')}.${format}`;
  if (format === 'json') return { fileName, text: writeGrade(gradeOf([...steps], name)), lost: [] };
  if (format === 'cc') {
    const { cdl, lost } = gradeToCdl([...steps], name);
    return { fileName, text: writeCc(cdl), lost };
  }
  const { kept, lost } = partly ? fitInTable(steps) : { kept: steps, lost: [] };
  const text = format === 'cube' ? writeCube(gradeToLut(kept, size, name)) : writeClf(gradeToClf(kept, size, name));
  return { fileName, text, lost };
}
