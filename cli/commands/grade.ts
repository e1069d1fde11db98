import { existsSync } from 'node:fs';
import { extname } from 'node:path';
import { deliverySchema, DELIVERY_INFO, type Delivery } from '@inkavo/core/model/job';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { exportClip } from '@inkavo/media/export/exportClip';
import { CallError, needed, openSource, wholeNumber, type Command } from '../call';
import { gradeFrom } from '../gradeFile';

const CODECS = deliverySchema.shape.codec.options;

/** The codec by name, or by what the output's name wants. */
function codecOf(name: string | undefined, output: string): Delivery['codec'] {
  const codec = name ?? (extname(output) === '.mkv' ? 'ffv1' : 'h264');
  const found = CODECS.find((c) => c === codec);
  if (!found) throw new CallError(`--codec is one of ${CODECS.join(', ')}.`);
  const { extension } = DELIVERY_INFO[found];
  if (extname(output) !== `.${extension}`)
    throw new CallError(`${DELIVERY_INFO[found].title} goes into a .${extension} file.`);
  return found;
}

/** inkavo grade: a file through a grade. */
export const grade: Command = {
  usage: 'grade FILE --grade G.json --output OUT [--codec h264|h265|ffv1] [--quality N] [--in FRAME] [--out FRAME]',
  options: ['grade', 'output', 'codec', 'quality', 'in', 'out'],
  async run(file, options) {
    const { steps } = gradeFrom(options.grade);
    const output = needed(options, 'output');
    const codec = codecOf(options.codec, output);
    if (existsSync(output)) throw new CallError(`"${output}" is there already. It was left alone.`);
    const quality = wholeNumber(options.quality, 'quality', 8, 40) ?? 18;
    const source = await openSource(file);
    const last = source.facts.frames - 1;
    const inFrame = wholeNumber(options.in, 'in', 0, last) ?? 0;
    const outFrame = wholeNumber(options.out, 'out', inFrame, last) ?? last;
    const started = Date.now();
    const frames = await exportClip({
      source,
      steps,
      luts: lutTexts(steps),
      delivery: { codec, quality },
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
