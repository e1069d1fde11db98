import { existsSync, readFileSync } from 'node:fs';
import { basename } from 'node:path';
import { readDiveLog } from '@inkavo/core/formats/diveLog';
import { writeGrade } from '@inkavo/core/formats/json';
import { proposeNoise } from '@inkavo/core/reading/proposeNoise';
import { SETTINGS } from '@inkavo/core/reading/settings';
import { clipBegins, type ClipDive } from '@inkavo/core/model/diveLog';
import { CAMERA_KINDS } from '@inkavo/core/model/outing';
import type { Known } from '@inkavo/core/reading/firstPass';
import { fps } from '@inkavo/core/model/facts';
import { gradeOf } from '@inkavo/core/model/grade';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { levelStack, quicklyDecoded } from '@inkavo/media/frames/noise';
import { clipFrames } from '@inkavo/media/reading/clipFrames';
import type { Source } from '@inkavo/media/frames/rest';
import { doTask, type Around } from '@inkavo/media/reading/tasks';
import { writeWhole } from '@inkavo/media/files';
import { CallError, openSource, type Command } from '../call';
import { gradeFrom } from '../gradeFile';

/** A frame near the middle with those around it. */
async function aroundMiddle(source: Source): Promise<Around> {
  const at = await quicklyDecoded(source, source.facts.frames >> 1);
  return { stack: await levelStack(source, at), seconds: at / fps(source.facts) };
}

/** A dive log from a file, and where in it the clip begins: as it is given in seconds, else by both clocks. */
function clipDive(path: string, offset: string | undefined, recordedAt: string | null): ClipDive {
  if (!existsSync(path)) throw new CallError(`There is no file "${path}".`);
  const log = readDiveLog(readFileSync(path, 'utf8'), basename(path));
  const begins = offset === undefined ? clipBegins(log, recordedAt) : Number(offset);
  if (begins === null)
    throw new CallError(
      'The clocks of clip and log do not meet. Say with --dive-offset at which second the clip begins.',
    );
  if (!Number.isFinite(begins)) throw new CallError('--dive-offset is a number of seconds.');
  return { log, offset: begins };
}

/** inkavo first-pass: reads a whole clip and writes the steps that would mend it. */
export const firstPass: Command = {
  usage:
    'first-pass FILE [--output G.json] [--camera action|drone|dive|phone|other] [--setting water|haze|air|unsure] [--grade CONVERSION.json] [--dive LOG.uddf|LOG.csv [--dive-offset SECONDS]]',
  options: ['output', 'grade', 'camera', 'setting', 'dive', 'dive-offset'],
  async run(file, { output, grade, camera, setting, dive, 'dive-offset': offset }) {
    if (camera && !CAMERA_KINDS.some((k) => k === camera))
      throw new CallError(`--camera is one of ${CAMERA_KINDS.join(', ')}.`);
    if (setting && !SETTINGS.some((s) => s === setting))
      throw new CallError(`--setting is one of ${SETTINGS.join(', ')}.`);
    if (offset !== undefined && !dive) throw new CallError('--dive-offset goes with --dive.');
    if (output && existsSync(output)) throw new CallError(`"${output}" is there already. It was left alone.`);
    const given = grade ? gradeFrom(grade).steps.filter((s) => s.on && s.kind === 'convert') : [];
    const source = await openSource(file);
    const { depth, tags } = source.facts;
    const known: Known = {
      camera: camera as Known['camera'],
      setting: setting as Known['setting'],
      depth,
      transfer: tags.transfer,
      dive: dive ? clipDive(dive, offset, source.facts.recordedAt) : null,
    };
    process.stderr.write('Reading the clip …\n');
    const pictures = await clipFrames(source, { inFrame: 0, outFrame: source.facts.frames - 1 });
    const { setting: filmed, explanations } = doTask({
      kind: 'firstPass',
      pictures,
      given,
      known,
      others: true,
      luts: lutTexts(given),
    });
    const [{ found, likelihood, proposals }, ...others] = explanations;
    // Where a frame is damaged, nothing is told of noise; the steps are still told of.
    const around = await aroundMiddle(source).catch(() => null);
    const all = [...given, ...proposals.map((p) => p.step)];
    const seen = around && doTask({ kind: 'noiseSeen', around, steps: all, luts: lutTexts(given) });
    const noise = seen && proposeNoise(seen, proposals.length > 0);
    const steps = [...given, ...proposals.map((p) => p.step)];
    if (output) writeWhole(output, writeGrade(gradeOf(steps, 'First pass')));
    return {
      data: { setting: filmed, found, likelihood, proposals, noise, others, ...(output ? { output } : {}) },
      lines: [
        ...(proposals.length === 0 ? ['Nothing to mend: range, colour and white are as they should be.'] : []),
        ...proposals.map((p) => `${p.step.kind}: ${p.reason}`),
        // It has a price, so it is left to a person.
        ...(noise ? [`noise (not taken): ${noise.reason}`] : []),
        `Taken for: ${found} (${Math.round(100 * likelihood)} %).`,
        ...others.map((o) => `Or: ${o.found} (${Math.round(100 * o.likelihood)} %).`),
        ...(output ? [output] : []),
      ],
    };
  },
};
