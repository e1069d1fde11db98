import { extname } from 'node:path';
import { secondsOf } from '@inkavo/core/model/facts';
import { REST_SIZE } from '@inkavo/core/program/bake';
import { compile } from '@inkavo/core/program/compile';
import { sourceNoise } from '@inkavo/core/program/source';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { writeWhole } from '@inkavo/media/files';
import { noiseTask, reducedOf } from '@inkavo/media/frames/noise';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { encodeStill, STILL_FORMS } from '@inkavo/media/frames/still';
import { CallError, frameAt, needed, openSource, wholeNumber, type Command } from '../call';
import { gradeFrom } from '../gradeFile';

/** inkavo frame: one frame as a picture, graded or as recorded. */
export const frame: Command = {
  usage: 'frame FILE --at FRAME|SECONDSs --output OUT.png|.tiff|.jpg [--grade G.json] [--quality 1–100]',
  options: ['at', 'grade', 'output', 'quality'],
  async run(file, options) {
    const output = needed(options, 'output');
    const form = STILL_FORMS.find((f) => `.${f}` === extname(output).toLowerCase());
    if (!form) throw new CallError('A frame goes into a .png, .tiff or .jpg file.');
    const quality = wholeNumber(options.quality, 'quality', 1, 100);
    const steps = options.grade ? gradeFrom(options.grade).steps : [];
    const source = await openSource(file);
    const n = frameAt(options.at ?? '0', source.facts);
    const seconds = secondsOf(source.facts, n);
    const noise = sourceNoise(steps, seconds);
    const picture = noise ? reducedOf(await noiseTask(source, n, noise)) : await decodeFrame(source, n);
    const program = compile(steps, seconds);
    const { width, height } = picture.format;
    const rgb = pictureToRgb(bakeFor(program, picture, REST_SIZE), picture);
    writeWhole(output, await encodeStill(rgb, width, height, { form, quality }));
    const depth = form === 'jpg' ? 8 : 16;
    return {
      data: { output, frame: n, width, height },
      lines: [`${output}: frame ${n}, ${width}×${height}, ${depth} bit`],
    };
  },
};
