import { HOLD_FRAMES } from '@inkavo/core/reading/holdCheck';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { clipFrames } from '@inkavo/media/reading/clipFrames';
import { doTask } from '@inkavo/media/reading/tasks';
import { openSource, showShare, type Command } from '../call';
import { gradeFrom } from '../gradeFile';

/** inkavo check: whether a grade holds over a whole clip. */
export const check: Command = {
  usage: 'check FILE --grade G.json',
  options: ['grade'],
  async run(file, { grade }) {
    const { steps } = gradeFrom(grade);
    const source = await openSource(file);
    process.stderr.write('Reading the clip …\n');
    const pictures = await clipFrames(
      source,
      { inFrame: 0, outFrame: source.facts.frames - 1, count: HOLD_FRAMES },
      { onProgress: (done, of) => showShare(done / of) },
    );
    const own = steps.map((s) => s.id);
    const report = doTask({ kind: 'holdCheck', pictures, steps, own, luts: lutTexts(steps) }, (done) =>
      process.stderr.write(`\r${done} of ${pictures.length} frames`),
    );
    process.stderr.write('\n');
    return {
      data: report,
      lines: [
        ...(report.troubles.length === 0 ? [`It holds: ${pictures.length} frames measured.`] : []),
        ...report.troubles.map((t) => `frames ${t.fromFrame}–${t.toFrame}, worst ${t.worstFrame}: ${t.text}`),
        ...report.mends.map((m) => `${m.title}: ${m.text}`),
      ],
    };
  },
};
