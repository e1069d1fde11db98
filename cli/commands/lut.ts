import { existsSync } from 'node:fs';
import { extname } from 'node:path';
import { gradeFile } from '@inkavo/core/formats/gradeFile';
import { LUT_SIZES } from '@inkavo/core/formats/gradeLut';
import { writeWhole } from '@inkavo/media/files';
import { CallError, needed, type Answer, type Command } from '../call';
import { gradeFrom } from '../gradeFile';

function asCdl(path: string, output: string): Answer {
  const { steps, name } = gradeFrom(path);
  const { text, lost } = gradeFile(steps, { format: 'cc', size: 0, name: name ?? 'grade' });
  writeWhole(output, text);
  const rest = lost.length
    ? `A CDL cannot hold: ${lost.join(', ')}. These are left out.`
    : 'The CDL is the whole grade.';
  return { data: { output, lost }, lines: [output, rest] };
}

/** inkavo lut: a grade as a table (.cube, .clf) or, as far as possible, as a CDL (.cc). */
export const lut: Command = {
  usage: 'lut --grade G.json --output OUT.cube|OUT.clf|OUT.cc [--size 17|33|65] [--partly yes]',
  options: ['grade', 'output', 'size', 'partly'],
  withoutFile: true,
  async run(_file, options) {
    const output = needed(options, 'output');
    if (existsSync(output)) throw new CallError(`"${output}" is there already. It was left alone.`);
    if (extname(output) === '.cc') return asCdl(needed(options, 'grade'), output);
    const type = extname(output);
    if (type !== '.cube' && type !== '.clf')
      throw new CallError('A table goes into a .cube or a .clf file, a CDL into a .cc file.');
    const size = Number(options.size ?? 33);
    if (!LUT_SIZES.some((s) => s === size)) throw new CallError(`--size is one of ${LUT_SIZES.join(', ')}.`);
    const { steps, name } = gradeFrom(options.grade);
    const format = type === '.clf' ? 'clf' : 'cube';
    const partly = options.partly === 'yes';
    const { text, lost } = gradeFile(steps, { format, size, name: name ?? 'grade', partly });
    writeWhole(output, text);
    const rest = lost.length ? [`A table cannot hold: ${lost.join(', ')}. These are left out.`] : [];
    return { data: { output, size, lost }, lines: [`${output}: ${size}³`, ...rest] };
  },
};
