import { writeCc } from '@inkavo/core/formats/cdl';
import { writeClf } from '@inkavo/core/formats/clf/write';
import { writeCube } from '@inkavo/core/formats/cube';
import { gradeToCdl } from '@inkavo/core/formats/gradeCdl';
import { gradeToClf, gradeToLut } from '@inkavo/core/formats/gradeLut';
import { writeGrade } from '@inkavo/core/formats/json';
import { gradeOf, type Step } from '@inkavo/core/model/grade';

/** A grade as a file, and what of it the format cannot hold. */
export interface GradeFile {
  fileName: string;
  text: string;
  lost: string[];
}

/** Writes steps in an open format. Throws a FormatError for a grade that the format cannot hold at all. */
export function gradeFile(
  steps: Step[],
  format: 'cube' | 'clf' | 'cc' | 'json',
  size: number,
  name: string,
): GradeFile {
  const fileName = `${name.replace(/\.\w+$/, '')}.${format}`;
  switch (format) {
    case 'cube':
      return { fileName, text: writeCube(gradeToLut(steps, size, name)), lost: [] };
    case 'clf':
      return { fileName, text: writeClf(gradeToClf(steps, size, name)), lost: [] };
    case 'json':
      return { fileName, text: writeGrade(gradeOf(steps, name)), lost: [] };
    case 'cc': {
      const { cdl, lost } = gradeToCdl(steps, name);
      return { fileName, text: writeCc(cdl), lost };
    }
  }
}
