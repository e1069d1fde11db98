import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import { writeGrade } from '@inkavo/core/formats/json';
import type { Match } from '@inkavo/core/match/matchTo';
import { gradeOf, type Step } from '@inkavo/core/model/grade';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { clipFrames, MATCH_FRAMES } from '@inkavo/media/reading/clipFrames';
import { doTask, type Graded } from '@inkavo/media/reading/tasks';
import { writeWhole } from '@inkavo/media/files';
import { CallError, openSource, type Command } from '../call';
import { gradeFrom } from '../gradeFile';

const VERDICTS: Record<Match['verdict'], string> = {
  matched: 'Matched.',
  unsure: 'Not sure: many colours have no like, so the steps act by part.',
  alike: 'They are as alike as what they show lets them be: no step is needed.',
  unlike: 'They show different things: colours alone do not say what should become what. No step was made.',
};
const percent = (v: number): string => `${Math.round(100 * v)} %`;

async function graded(path: string, steps: Step[]): Promise<Graded> {
  const source = await openSource(path);
  const outFrame = source.facts.frames - 1;
  return { pictures: await clipFrames(source, { inFrame: 0, outFrame, count: MATCH_FRAMES }), steps };
}

/** inkavo match: writes a clip's grade with steps that match it to the colours of another one. */
export const match: Command = {
  usage: 'match FILE --to REFERENCE [--output G.json] [--grade G.json] [--to-grade G.json]',
  options: ['to', 'output', 'grade', 'to-grade'],
  async run(file, { to, output, grade, 'to-grade': toGrade }) {
    if (!to) throw new CallError('What it should look like is needed: --to REFERENCE.');
    if (output && existsSync(output)) throw new CallError(`"${output}" is there already. It was left alone.`);
    const [given, other] = [grade, toGrade].map((path) => (path ? gradeFrom(path).steps : []));
    process.stderr.write('Comparing both clips …\n');
    const { verdict, steps, shared } = doTask({
      kind: 'match',
      source: await graded(file, given),
      reference: await graded(to, other),
      like: basename(to),
      luts: lutTexts([...given, ...other]),
    });
    if (output) writeWhole(output, writeGrade(gradeOf([...given, ...steps], `Like ${basename(to)}`)));
    return {
      data: { verdict, steps, shared, ...(output ? { output } : {}) },
      lines: [
        VERDICTS[verdict],
        `Colours with their like in the other clip: ${percent(shared[0])} before, ${percent(shared[1])} with the steps.`,
        ...(output ? [output] : []),
      ],
    };
  },
};
