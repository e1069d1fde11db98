import { Router, type Request, type Response } from 'express';
import { z } from 'zod';
import { clipDiveSchema, diveLogSchema } from '@inkavo/core/model/diveLog';
import { stepsSchema } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import { SETTINGS } from '@inkavo/core/reading/settings';
import { lutTexts } from '@inkavo/core/steps/lut/library';
import { MediaError } from '@inkavo/media/codec';
import { clipFrames, type ReadPicture } from '@inkavo/media/reading/clipFrames';
import { inThread } from '@inkavo/media/reading/inThread';
import { check, HttpError, untilGone } from '../http';
import type { Parts } from '../parts';

const firstPassRequest = z.object({ steps: stepsSchema, setting: z.enum(SETTINGS).optional() });
const holdRequest = z.object({ steps: stepsSchema, own: z.array(z.string().max(64)).max(64) });
const clockRequest = z.object({ log: diveLogSchema });

/** Frames that a hold check measures, at most. */
const HOLD_FRAMES = 48;

/** Readings of a whole clip: first pass, hold check, dive log. */
export function readingRoutes({ clips, outings, luts, library, events }: Parts): Router {
  const routes = Router();

  /** Pictures over the clip's useful part; from the proxy where it is made. */
  async function pictures(clip: Clip, signal: AbortSignal, count?: number): Promise<ReadPicture[]> {
    const source = await clips.source(clip, library.original(clip.hash));
    const proxy = clip.proxy === 'ready' ? library.proxy(clip.hash) : undefined;
    const { inFrame, outFrame } = clip;
    const found = await clipFrames(source, { proxy, inFrame, outFrame, count }, signal);
    if (found.length === 0) throw new MediaError('No frame of this clip could be decoded.');
    return found;
  }

  /** Answers line by line (JSON): how far it is, then the answer, or an error. */
  async function inLines(res: Response, work: (say: (line: object) => void, signal: AbortSignal) => Promise<object>) {
    const signal = untilGone(res);
    res.type('application/x-ndjson');
    const say = (line: object): void => void res.write(`${JSON.stringify(line)}\n`);
    try {
      say(await work(say, signal));
    } catch (error) {
      if (signal.aborted) return;
      say({
        error:
          error instanceof MediaError || error instanceof HttpError ? error.message : 'The clip could not be read.',
      });
    }
    res.end();
  }

  routes.post('/:id/first-pass', async (req: Request<{ id: string }>, res) => {
    const clip = await clips.get(req.params.id);
    const { steps, setting } = check(firstPassRequest, req.body);
    // What says how the file encodes light stays; everything else is read anew.
    const given = steps.filter((s) => s.on && s.kind === 'convert');
    await luts.provide(given);
    const { kind: camera, setting: usual } = await outings.camera(clip.cameraId);
    const { depth, tags } = clip.facts;
    const said = setting ?? usual ?? undefined;
    const known = { camera, depth, transfer: tags.transfer, setting: said, dive: clip.dive };
    await inLines(res, async (_say, signal) => ({
      pass: await inThread(
        { kind: 'firstPass', pictures: await pictures(clip, signal), given, known, luts: lutTexts(given) },
        { signal },
      ),
    }));
  });

  routes.post('/:id/hold-check', async (req: Request<{ id: string }>, res) => {
    const clip = await clips.get(req.params.id);
    const { steps, own } = check(holdRequest, req.body);
    await luts.provide(steps);
    await inLines(res, async (say, signal) => {
      const list = await pictures(clip, signal, HOLD_FRAMES);
      const report = await inThread(
        { kind: 'holdCheck', pictures: list, steps, own, luts: lutTexts(steps) },
        { signal, onProgress: (done) => say({ done, of: list.length }) },
      );
      return { report };
    });
  });

  routes.put('/:id/dive', async (req: Request<{ id: string }>, res) => {
    const clip = await clips.setDive(req.params.id, check(clipDiveSchema, req.body));
    res.json(clip);
    events.send({ type: 'clip', id: clip.id, outingId: clip.outingId });
  });

  routes.delete('/:id/dive', async (req: Request<{ id: string }>, res) => {
    const clip = await clips.setDive(req.params.id, null);
    res.json(clip);
    events.send({ type: 'clip', id: clip.id, outingId: clip.outingId });
  });

  routes.post('/:id/dive/clock', async (req: Request<{ id: string }>, res) => {
    const clip = await clips.get(req.params.id);
    const { log } = check(clockRequest, req.body);
    await inLines(res, async (_say, signal) => ({
      fit: await inThread({ kind: 'waterClock', pictures: await pictures(clip, signal), log }, { signal }),
    }));
  });
  return routes;
}
