import { mkdirSync } from 'node:fs';
import { basename, extname, join } from 'node:path';
import { DELIVERY_INFO } from '@inkavo/core/model/delivery';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { exportClip } from '@inkavo/media/export/exportClip';
import { CallError, mustBeFree, needed, openSource, showShare, type Command } from '../call';
import { deliveryOf, DELIVERY_OPTIONS, DELIVERY_USAGE } from '../delivery';
import { gradeFrom } from '../gradeFile';

/** inkavo export: files through a grade, into a folder. */
export const exportFiles: Command = {
  usage: `export FILE … --into FOLDER [--grade G.json] ${DELIVERY_USAGE}`,
  options: ['grade', 'into', ...DELIVERY_OPTIONS],
  withFiles: true,
  async run(_file, options, files) {
    const into = needed(options, 'into');
    const steps = options.grade ? gradeFrom(options.grade).steps : [];
    const delivery = deliveryOf(options, 'h264');
    const { extension } = DELIVERY_INFO[delivery.codec];
    const outputs = files.map((file) => join(into, `${basename(file, extname(file))}.${extension}`));
    const twice = outputs.find((output, k) => outputs.indexOf(output) !== k);
    if (twice) throw new CallError(`Two of the files would become "${twice}".`);
    // All are looked at before the first is begun.
    outputs.forEach(mustBeFree);
    const sources = await Promise.all(files.map(openSource));
    mkdirSync(into, { recursive: true });
    const data: { output: string; frames: number }[] = [];
    for (const [k, source] of sources.entries()) {
      const output = outputs[k];
      const frames = await exportClip({
        ...{ source, steps, delivery, output, luts: lutTexts(steps) },
        ...{ inFrame: 0, outFrame: source.facts.frames - 1 },
        onProgress: (done, all) => showShare(done / all),
      });
      data.push({ output, frames });
    }
    return { data, lines: data.map(({ output, frames }) => `${output}: ${frames} frames`) };
  },
};
