import { mkdirSync } from 'node:fs';
import { basename, extname, join } from 'node:path';
import { DELIVERY_INFO } from '@inkavo/core/model/delivery';
import type { Job } from '@inkavo/core/model/job';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { exportClip } from '@inkavo/media/export/exportClip';
import { CallError, mustBeFree, needed, openSource, showShare, type Answer, type Command } from '../call';
import { deliveryOf, DELIVERY_OPTIONS, DELIVERY_USAGE, mustEncode } from '../delivery';
import { gradeFrom } from '../gradeFile';
import { OUTING_OPTIONS, OUTING_USAGE, outingFrom } from '../library';

/** inkavo export: files with a grade, into a folder. */
export const exportFiles: Command = {
  usage: `export FILE … --into FOLDER [--grade G.json] ${DELIVERY_USAGE}, or export ${OUTING_USAGE} --into FOLDER …`,
  options: ['grade', 'into', ...OUTING_OPTIONS, ...DELIVERY_OPTIONS],
  withFiles: true,
  insteadOfFiles: 'outing',
  async run(_file, options, files) {
    const into = needed(options, 'into');
    if (options.outing !== undefined) return exportOuting(into, options);
    const steps = options.grade ? gradeFrom(options.grade).steps : [];
    const delivery = deliveryOf(options, 'h264');
    await mustEncode(delivery);
    const { extension } = DELIVERY_INFO[delivery.codec];
    const outputs = files.map((file) => join(into, `${basename(file, extname(file))}.${extension}`));
    const twice = outputs.find((output, k) => outputs.indexOf(output) !== k);
    if (twice) throw new CallError(`Two of the files would become "${twice}".`);
    // All are probed before the first export starts.
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

/** All clips of an outing, as graded and trimmed: made by the server, then downloaded. */
async function exportOuting(into: string, options: Record<string, string | undefined>): Promise<Answer> {
  if (options.grade) throw new CallError('The clips of an outing have grades of their own: leave --grade out.');
  const delivery = deliveryOf(options, 'h264');
  const { library, outing } = await outingFrom(options);
  const clipIds = await library.clips(outing.id);
  if (clipIds.length === 0) throw new CallError(`There are no clips in "${outing.name}".`);
  const outputOf = (job: Job): string => join(into, job.file!.name);
  const jobs = await library.make('/deliveries', { clipIds, delivery }, (queued) =>
    queued.forEach((job) => mustBeFree(outputOf(job))),
  );
  const data: { output: string; frames: number }[] = [];
  for (const job of jobs) {
    const output = outputOf(job);
    await library.fetch(job, output);
    data.push({ output, frames: job.file!.result?.frames ?? 0 });
  }
  return { data, lines: data.map(({ output, frames }) => `${output}: ${frames} frames`) };
}
