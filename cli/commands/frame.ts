import { extname } from 'node:path';
import { secondsOf } from '@inkavo/core/model/facts';
import { REST_SIZE } from '@inkavo/core/program/bake';
import { compile } from '@inkavo/core/program/compile';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { writeWhole } from '@inkavo/media/files';
import { decodeFrame } from '@inkavo/media/frames/rest';
import { encodePng16 } from '@inkavo/media/frames/still';
import { CallError, frameAt, needed, openSource, type Command } from '../call';
import { gradeFrom } from '../gradeFile';

/** inkavo frame: one frame as a PNG of 16 bits, graded or as recorded. */
export const frame: Command = {
  usage: 'frame FILE --at FRAME|SECONDSs --output OUT.png [--grade G.json]',
  options: ['at', 'grade', 'output'],
  async run(file, options) {
    const output = needed(options, 'output');
    if (extname(output) !== '.png') throw new CallError('A frame goes into a .png file.');
    const steps = options.grade ? gradeFrom(options.grade).steps : [];
    const source = await openSource(file);
    const n = frameAt(options.at ?? '0', source.facts);
    const picture = await decodeFrame(source, n);
    const program = compile(steps, secondsOf(source.facts, n));
    const { width, height } = picture.format;
    const png = await encodePng16(pictureToRgb(bakeFor(program, picture, REST_SIZE), picture), width, height);
    writeWhole(output, png);
    return { data: { output, frame: n, width, height }, lines: [`${output}: frame ${n}, ${width}×${height}, 16 bit`] };
  },
};
