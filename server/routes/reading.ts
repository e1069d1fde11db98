import { LRUCache } from 'lru-cache';
import { z } from 'zod';
import { fps } from '@inkavo/core/model/facts';
import { clipDiveSchema, diveLogSchema } from '@inkavo/core/model/diveLog';
import { joinSteps, stepsSchema } from '@inkavo/core/model/grade';
import { clipSchema, idSchema, type Clip } from '@inkavo/core/model/outing';
import { PROFILES } from '@inkavo/core/model/profile';
import { SETTINGS } from '@inkavo/core/reading/settings';
import { MediaError } from '@inkavo/media/codec';
import { clipFrames, MATCH_FRAMES, type ReadOptions, type ReadPicture } from '@inkavo/media/reading/clipFrames';
import { inThread } from '@inkavo/media/threads/pool';
import { HOLD_FRAMES } from '@inkavo/core/reading/holdCheck';
import { otherClipsOf } from '../otherClips';
import type { Api } from '../http/api';
import { inLines, LINES } from '../http/lines';
import type { Parts } from '../parts';
import { SharedWork } from '../sharedWork';

const one = z.object({ id: idSchema });
/**
 * `others`: whether alternatives to the best explanation are computed; the best one is then sent first. `dive`: a dive
 * log that replaces the clip's own, such as one not yet saved; null: none.
 */
const firstPassRequest = z.object({
  steps: stepsSchema,
  setting: z.enum(SETTINGS).optional(),
  dive: clipDiveSchema.nullable().optional(),
  others: z.boolean().default(true),
});
/** `own`: ids of the steps that mends may change; null: no mends are tried, which takes longer than measuring. */
const holdRequest = z.object({ steps: stepsSchema, own: z.array(z.string().max(64)).max(64).nullable() });
const cornersRequest = z.object({ steps: stepsSchema });
/** `near`: a frame close by is acceptable if quicker to decode. */
const noiseRequest = z.object({ steps: stepsSchema, frame: z.number().int().min(0), near: z.boolean().default(false) });
const matchRequest = z.object({ steps: stepsSchema, to: idSchema });
const clockRequest = z.object({ log: diveLogSchema });

/** Cache size in bytes of pictures for readings: some 25 clips of 8 bits. */
const PICTURES_BYTES = 128 << 20;
/**
 * Number of stretches for tracking scene points, pictures in each, and their spacing: short enough that a walking
 * camera moves by a few hundredths of the width.
 */
const STRETCHES = 3;
const STRETCH_PICTURES = 16;
const APART_SECONDS = 0.13;

/** Readings of a whole clip: first pass, hold check, match, dive log, corners; and of a frame: noise. */
export function readingRoutes(api: Api, { clips, outings, shelf, library, events, frames }: Parts): void {
  const kept = new LRUCache<string, ReadPicture[]>({
    maxSize: PICTURES_BYTES,
    sizeCalculation: (list) => list.reduce((sum, { picture }) => sum + picture.y.buffer.byteLength, 1),
  });
  const work = new SharedWork();

  /**
   * Pictures from the clip's useful part; from the proxy if it exists. Cached for the next reading: a first pass is
   * requested again as soon as the user says where the clip was filmed. `onProgress`: if they are read one by one.
   */
  async function pictures(
    clip: Clip,
    signal: AbortSignal,
    { count, onProgress }: { count?: number; onProgress?: ReadOptions['onProgress'] } = {},
  ): Promise<ReadPicture[]> {
    const source = await clips.source(clip, library.original(clip.hash));
    const proxy = clip.proxy === 'ready' ? library.proxy(clip.hash) : undefined;
    const { hash, inFrame, outFrame } = clip;
    const key = [hash, inFrame, outFrame, count ?? '', proxy ? 'proxy' : 'original'].join('/');
    return work.once(
      kept,
      key,
      async (until) => {
        const found = await clipFrames(source, { proxy, inFrame, outFrame, count }, { signal: until, onProgress });
        if (found.length === 0) throw new MediaError('No frame of this clip could be decoded.');
        return found;
      },
      signal,
    );
  }

  const seenBeside = (clip: Clip, signal: AbortSignal) => otherClipsOf(clip, { clips, frames }, signal);

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/first-pass',
      summary: 'Propose steps for a clip',
      params: one,
      body: firstPassRequest,
      answers: LINES,
    },
    async ({ params, body: { steps, setting, others, dive }, res }) => {
      const clip = await clips.get(params.id);
      // Conversions stay, since they say how the file encodes light; all other steps are proposed anew.
      const given = steps.filter((s) => s.on && s.kind === 'convert');
      const { kind: camera, setting: usual } = await outings.camera(clip.cameraId);
      const { depth, tags } = clip.facts;
      const said = setting ?? usual ?? undefined;
      const profiles = await shelf.profiles();
      const log = dive === undefined ? clip.dive : dive;
      const known = { camera, depth, transfer: tags.transfer, setting: said, dive: log, profiles };
      const tables = await shelf.textsFor(given);
      await inLines(res, async (say, signal) => {
        const onProgress = (done: number, all: number): void => say({ done, of: all });
        const [read, otherClips] = await Promise.all([
          pictures(clip, signal, { onProgress }),
          seenBeside(clip, signal),
        ]);
        const of = { given, known: { ...known, otherClips }, others };
        const task = { kind: 'firstPass' as const, pictures: read, ...of, luts: tables };
        return { pass: await inThread(task, { signal, onMessage: (best) => say({ best }) }) };
      });
    },
  );

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/file-reading',
      summary: 'What the file is by its pictures: how likely each profile is, what is lost',
      params: one,
      answers: LINES,
    },
    async ({ params, res }) => {
      const clip = await clips.get(params.id);
      const profiles = [...PROFILES, ...(await shelf.profiles())];
      const { depth, tags } = clip.facts;
      await inLines(res, async (say, signal) => {
        const onProgress = (done: number, of: number): void => say({ done, of });
        const [read, otherClips] = await Promise.all([
          pictures(clip, signal, { onProgress }),
          seenBeside(clip, signal),
        ]);
        const task = { kind: 'fileReading' as const, pictures: read, profiles, depth, tag: tags.transfer, otherClips };
        return { reading: await inThread(task, { signal }) };
      });
    },
  );

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/hold-check',
      summary: 'Whether a grade holds over a whole clip',
      params: one,
      body: holdRequest,
      answers: LINES,
    },
    async ({ params, body: { steps, own }, res }) => {
      const clip = await clips.get(params.id);
      const tables = await shelf.textsFor(steps);
      await inLines(res, async (say, signal) => {
        // Half of the progress if pictures are read with seeks.
        let read = 0;
        const onProgress = (done: number, of: number): void => {
          read = done;
          say({ done, of: 2 * of });
        };
        const list = await pictures(clip, signal, { count: HOLD_FRAMES, onProgress });
        const report = await inThread(
          { kind: 'holdCheck', pictures: list, steps, own, luts: tables },
          { signal, onMessage: (done) => say({ done: read + done, of: read + list.length }) },
        );
        return { report };
      });
    },
  );

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/noise',
      summary: 'How strong the noise of a frame is after some steps; null where it cannot be told',
      params: one,
      body: noiseRequest,
      answers: LINES,
    },
    async ({ params, body: { steps, frame, near }, res }) => {
      const clip = await clips.get(params.id);
      const luts = await shelf.textsFor(steps);
      const source = await clips.source(clip, library.original(clip.hash));
      const at = Math.min(frame, clip.facts.frames - 1);
      await inLines(res, async (_say, signal) => {
        const around = await frames.around(source, at, near, signal);
        const gives = [around.stack.frames];
        return { noise: await inThread({ kind: 'noiseSeen', around, steps, luts }, { signal, gives }) };
      });
    },
  );

  /** Stretches of closely spaced pictures, from the clip's useful part. */
  async function stretches(clip: Clip, signal: AbortSignal): Promise<ReadPicture[][]> {
    const source = await clips.source(clip, library.original(clip.hash));
    const proxy = clip.proxy === 'ready' ? library.proxy(clip.hash) : undefined;
    const { inFrame, outFrame, facts } = clip;
    const every = Math.max(1, Math.round(fps(facts) * APART_SECONDS));
    const length = Math.min(outFrame - inFrame + 1, every * STRETCH_PICTURES);
    const room = outFrame - inFrame + 1 - length;
    const count = Math.min(STRETCHES, 1 + Math.floor(room / length));
    const starts = Array.from({ length: count }, (_, k) => inFrame + Math.round((room * (k + 0.5)) / count));
    const list: ReadPicture[][] = [];
    for (const from of starts) {
      const part = { proxy, inFrame: from, outFrame: from + length - 1, count: Math.floor(length / every) };
      list.push(await clipFrames(source, part, { signal }));
    }
    return list;
  }

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/corners',
      summary: 'How much the lens darkens the corners, by what moves through the picture after some steps',
      params: one,
      body: cornersRequest,
      answers: LINES,
    },
    async ({ params, body: { steps }, res }) => {
      const clip = await clips.get(params.id);
      const tables = await shelf.textsFor(steps);
      await inLines(res, async (_say, signal) => ({
        corners: await inThread(
          { kind: 'corners', stretches: await stretches(clip, signal), steps, luts: tables },
          { signal },
        ),
      }));
    },
  );

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/match',
      summary:
        'Steps that bring a clip, after some steps, to the colours of another one as its camera and its own steps leave it',
      params: one,
      body: matchRequest,
      answers: LINES,
    },
    async ({ params, body: { steps, to }, res }) => {
      const [clip, other] = [await clips.get(params.id), await clips.get(to)];
      const camera = await outings.camera(other.cameraId);
      // Outing steps follow, in both clips.
      const given = joinSteps(camera.steps, other.steps, [], other.overrides);
      const luts = await shelf.textsFor([...steps, ...given]);
      await inLines(res, async (_say, signal) => {
        const [own, others] = await Promise.all([clip, other].map((c) => pictures(c, signal, { count: MATCH_FRAMES })));
        const [source, reference] = [
          { pictures: own, steps },
          { pictures: others, steps: given },
        ];
        return { match: await inThread({ kind: 'match', source, reference, like: other.name, luts }, { signal }) };
      });
    },
  );

  const changedDive = async (id: string, dive: Clip['dive']): Promise<Clip> => {
    const clip = await clips.setDive(id, dive);
    events.send({ type: 'clip', id: clip.id, outingId: clip.outingId, shared: false });
    return clip;
  };
  api.route(
    {
      method: 'put',
      path: '/clips/{id}/dive',
      summary: 'Give a clip its dive log',
      params: one,
      body: clipDiveSchema,
      answers: { 200: clipSchema },
    },
    async ({ params, body, answer }) => answer(200, await changedDive(params.id, body)),
  );
  api.route(
    {
      method: 'delete',
      path: '/clips/{id}/dive',
      summary: 'Take the dive log away',
      params: one,
      answers: { 200: clipSchema },
    },
    async ({ params, answer }) => answer(200, await changedDive(params.id, null)),
  );

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/dive/clock',
      summary: 'Where in a dive log a clip begins, by its colours',
      params: one,
      body: clockRequest,
      answers: LINES,
    },
    async ({ params, body: { log }, res }) => {
      const clip = await clips.get(params.id);
      await inLines(res, async (_say, signal) => ({
        fit: await inThread({ kind: 'waterClock', pictures: await pictures(clip, signal), log }, { signal }),
      }));
    },
  );
}
