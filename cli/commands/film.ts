import { existsSync, readFileSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { readOtio } from '@inkavo/core/formats/timeline/otio';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { makeFilm, type FilmShot } from '@inkavo/media/export/film';
import { CallError, mustBeFree, needed, openSource, showShare, type Command } from '../call';
import { deliveryFor, DELIVERY_OPTIONS, DELIVERY_USAGE, mustEncode } from '../delivery';
import { gradeFrom } from '../gradeFile';

/** inkavo film: a timeline rendered as one file. */
export const film: Command = {
  usage: `film TIMELINE.otio --output OUT [--grade G.json] ${DELIVERY_USAGE}`,
  options: ['output', 'grade', ...DELIVERY_OPTIONS],
  async run(file, options) {
    const output = needed(options, 'output');
    const delivery = deliveryFor(options, output);
    await mustEncode(delivery);
    mustBeFree(output);
    if (!existsSync(file)) throw new CallError(`There is no file "${file}".`);
    const list = readOtio(readFileSync(file, 'utf8'));
    const steps = options.grade ? gradeFrom(options.grade).steps : [];
    const shots: FilmShot[] = [];
    for (const { path, inFrame, outFrame, factor } of list.clips) {
      const source = await openSource(resolve(dirname(file), path));
      if (outFrame >= source.facts.frames)
        throw new CallError(`"${path}" has ${source.facts.frames} frames; the timeline wants frame ${outFrame}.`);
      const retime = factor === 1 ? null : ({ factor, rate: null, between: 'nearest', sound: 'follows' } as const);
      shots.push({ source, steps, luts: lutTexts(steps), inFrame, outFrame, retime });
    }
    const { frames, damaged } = await makeFilm({
      ...{ shots, output, dissolve: list.dissolve, levelled: true },
      delivery: { ...delivery, rate: delivery.rate ?? list.rate },
      onProgress: (done, all) => showShare(done / all),
    });
    return {
      data: { output, frames, damaged },
      lines: [
        `${output}: ${frames} frames of ${shots.length} clips`,
        ...damaged.map((d) => `${list.clips[d.shot].name}: only ${d.decoded} of ${d.of} frames could be decoded.`),
      ],
    };
  },
};
