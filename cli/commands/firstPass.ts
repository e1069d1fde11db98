import { existsSync, readFileSync } from 'node:fs';
import { basename } from 'node:path';
import { readDives } from '@inkavo/core/formats/diveLog';
import { writeGrade } from '@inkavo/core/formats/json';
import { proposeNoise } from '@inkavo/core/reading/proposeNoise';
import { SETTINGS } from '@inkavo/core/reading/settings';
import { clipBegins, diveAround, type ClipDive, type DiveLog } from '@inkavo/core/model/diveLog';
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
import { CallError, openSource, showShare, type Command } from '../call';
import { gradeFrom } from '../gradeFile';

/** A frame near the middle with its neighbours. */
async function aroundMiddle(source: Source): Promise<Around> {
  const at = await quicklyDecoded(source, source.facts.frames >> 1);
  return { stack: await levelStack(source, at), seconds: at / fps(source.facts) };
}

/** One of the dives of a log: the only one, the one with a number (from 1), or the one that matches by both clocks. */
function chosenDive(path: string, number: string | undefined, recordedAt: string | null): DiveLog {
  if (!existsSync(path)) throw new CallError(`There is no file "${path}".`);
  const dives = readDives(readFileSync(path, 'utf8'), basename(path));
  const chosen =
    number === undefined ? (dives.length > 1 ? diveAround(dives, recordedAt) : dives[0]) : dives[Number(number) - 1];
  if (chosen) return chosen;
  throw new CallError(
    number === undefined
      ? `There are ${dives.length} dives in this file, and the clocks do not tell which it is. Say with --dive-number.`
      : `--dive-number is one of 1 to ${dives.length}.`,
  );
}

/** A dive and the clip's offset in it: given in seconds, or derived from both clocks. */
function clipDive(log: DiveLog, offset: string | undefined, recordedAt: string | null): ClipDive {
  const begins = offset === undefined ? clipBegins(log, recordedAt) : Number(offset);
  if (begins === null)
    throw new CallError(
      'The clocks of clip and log do not meet. Say with --dive-offset at which second the clip begins.',
    );
  if (!Number.isFinite(begins)) throw new CallError('--dive-offset is a number of seconds.');
  return { log, offset: begins };
}

/** inkavo first-pass: reads a whole clip and writes the proposed steps. */
export const firstPass: Command = {
  usage:
    'first-pass FILE [--output G.json] [--camera action|drone|dive|phone|other] [--setting water|haze|air|unsure] [--grade CONVERSION.json] [--dive LOG.uddf|LOG.csv [--dive-number N] [--dive-offset SECONDS]]',
  options: ['output', 'grade', 'camera', 'setting', 'dive', 'dive-number', 'dive-offset'],
  async run(file, { output, grade, camera, setting, dive, 'dive-number': number, 'dive-offset': offset }) {
    if (camera && !CAMERA_KINDS.some((k) => k === camera))
      throw new CallError(`--camera is one of ${CAMERA_KINDS.join(', ')}.`);
    if (setting && !SETTINGS.some((s) => s === setting))
      throw new CallError(`--setting is one of ${SETTINGS.join(', ')}.`);
    if ((offset !== undefined || number !== undefined) && !dive)
      throw new CallError('--dive-number and --dive-offset go with --dive.');
    if (output && existsSync(output)) throw new CallError(`"${output}" is there already. It was left alone.`);
    const given = grade ? gradeFrom(grade).steps.filter((s) => s.on && s.kind === 'convert') : [];
    const source = await openSource(file);
    const { depth, tags, recordedAt } = source.facts;
    const known: Known = {
      camera: camera as Known['camera'],
      setting: setting as Known['setting'],
      depth,
      transfer: tags.transfer,
      dive: dive ? clipDive(chosenDive(dive, number, recordedAt), offset, recordedAt) : null,
    };
    process.stderr.write('Reading the clip …\n');
    const pictures = await clipFrames(
      source,
      { inFrame: 0, outFrame: source.facts.frames - 1 },
      { onProgress: (done, of) => showShare(done / of) },
    );
    const { setting: filmed, explanations } = doTask({
      kind: 'firstPass',
      pictures,
      given,
      known,
      others: true,
      luts: lutTexts(given),
    });
    const [{ found, likelihood, proposals }, ...others] = explanations;
    // If a frame is damaged, noise is not reported, but the steps are.
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
        // It costs processing time, so it is left to the user.
        ...(noise ? [`noise (not taken): ${noise.reason}`] : []),
        `Taken for: ${found} (${Math.round(100 * likelihood)} %).`,
        ...others.map((o) => `Or: ${o.found} (${Math.round(100 * o.likelihood)} %).`),
        ...(output ? [output] : []),
      ],
    };
  },
};
