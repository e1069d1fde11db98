import { lutTexts } from '@inkavo/core/steps/lut/library';
import { exportClip } from '@inkavo/media/export/exportClip';
import { mustBeFree, needed, openSource, wholeNumber, type Command } from '../call';
import { deliveryFor, DELIVERY_OPTIONS, DELIVERY_USAGE } from '../delivery';
import { gradeFrom } from '../gradeFile';

/** inkavo grade: exports a file with a grade. */
export const grade: Command = {
  usage: `grade FILE --grade G.json --output OUT [--in FRAME] [--out FRAME] ${DELIVERY_USAGE}`,
  options: ['grade', 'output', 'in', 'out', ...DELIVERY_OPTIONS],
  async run(file, options) {
    const { steps } = gradeFrom(options.grade);
    const output = needed(options, 'output');
    const delivery = deliveryFor(options, output);
    mustBeFree(output);
    const source = await openSource(file);
    const last = source.facts.frames - 1;
    const inFrame = wholeNumber(options.in, 'in', 0, last) ?? 0;
    const outFrame = wholeNumber(options.out, 'out', inFrame, last) ?? last;
    const started = Date.now();
    const frames = await exportClip({
      source,
      steps,
      luts: lutTexts(steps),
      delivery,
      inFrame,
      outFrame,
      output,
      onProgress: (done, all) => process.stderr.isTTY && process.stderr.write(`\r${done} of ${all} frames`),
    });
    if (process.stderr.isTTY) process.stderr.write('\r\x1b[K');
    const seconds = (Date.now() - started) / 1000;
    return { data: { output, frames, seconds }, lines: [`${output}: ${frames} frames in ${seconds.toFixed(1)} s`] };
  },
};
