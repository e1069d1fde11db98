import { Router, type Request, type Response } from 'express';
import { z } from 'zod';
import { joinSteps } from '@inkavo/core/model/grade';
import { clipPatch, gradeChange, type Clip } from '@inkavo/core/model/outing';
import { compile } from '@inkavo/core/program/compile';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { secondsOf } from '@inkavo/core/model/facts';
import { encodeJpeg } from '@inkavo/media/frames/still';
import { check, HttpError, untilGone } from '../http';
import type { Parts } from '../parts';

const even = z.number().int().nonnegative().multipleOf(2);
const frameQuery = z.object({
  frame: z.coerce.number().int().nonnegative(),
  width: z.coerce.number().int().min(16).max(8192),
  /** A part of the frame in the file's pixels: x, y, width and height, with commas. */
  part: z
    .string()
    .regex(/^(\d+,){3}\d+$/)
    .transform((text) => {
      const [x, y, width, height] = text.split(',').map(Number);
      return { x, y, width, height };
    })
    .pipe(z.object({ x: even, y: even, width: even.min(16), height: even.min(16) }))
    .optional(),
});
const thumbQuery = z.object({
  width: z.coerce.number().int().min(16).max(960).default(320),
  graded: z.enum(['0', '1']).default('1'),
});

/** Nodes an edge of a table for thumbnails. */
const THUMB_TABLE = 17;
const YEAR = 31_536_000;

/** Clips: their data, frames, proxies, thumbnails and steps. */
export function clipRoutes({ clips, outings, luts, library, frames, events }: Parts): Router {
  const routes = Router();
  const clipOf = (req: Request<{ id: string }>): Promise<Clip> => clips.get(req.params.id);

  routes.get('/:id', async (req, res) => {
    const clip = await clipOf(req);
    res.json({ clip, camera: await outings.camera(clip.cameraId), outing: await outings.get(clip.outingId) });
  });

  routes.patch('/:id', async (req, res) => {
    const clip = await clips.update(req.params.id, check(clipPatch, req.body));
    events.send({ type: 'outing', id: clip.outingId });
    res.json(clip);
  });

  routes.put('/:id/steps', async (req, res) => {
    const clip = await clipOf(req);
    const change = check(gradeChange, req.body);
    for (const part of Object.values(change)) await luts.check(part.steps);
    const revisions = await clips.change(clip, change);
    res.json({ revisions });
    events.send({ type: 'clip', id: clip.id, outingId: clip.outingId });
  });

  // A frame at rest: planes of 16-bit little-endian Y', Cb, Cr, one after the other, 4:4:4.
  routes.get('/:id/frame', async (req, res) => {
    const clip = await clipOf(req);
    const { frame, width, part } = check(frameQuery, req.query);
    const { facts } = clip;
    if (frame >= facts.frames) throw new HttpError(400, `The last frame of this clip is ${facts.frames - 1}.`);
    if (part && (part.x + part.width > facts.width || part.y + part.height > facts.height))
      throw new HttpError(400, `This part is not in the frame: it has ${facts.width} × ${facts.height} pixels.`);
    const source = await clips.source(clip, library.original(clip.hash));
    const signal = untilGone(res);
    try {
      const picture = await frames.get(clip.hash, source, frame, width, signal, part);
      res.set({
        'Content-Type': 'application/octet-stream',
        'Cache-Control': `private, max-age=${YEAR}, immutable`,
        'X-Frame-Width': String(picture.format.width),
        'X-Frame-Height': String(picture.format.height),
      });
      res.end(Buffer.from(picture.y.buffer));
    } catch (error) {
      if (!signal.aborted) throw error;
    }
  });

  routes.get('/:id/thumb.jpg', async (req, res) => {
    const clip = await clipOf(req);
    const { width, graded } = check(thumbQuery, req.query);
    const source = await clips.source(clip, library.original(clip.hash));
    const picture = await frames.get(clip.hash, source, clip.referenceFrame, width);
    let steps: Clip['steps'] = [];
    if (graded === '1') {
      const [camera, outing] = [await outings.camera(clip.cameraId), await outings.get(clip.outingId)];
      steps = joinSteps(camera.steps, clip.steps, outing.steps, clip.overrides);
      await luts.provide(steps);
    }
    const program = compile(steps, secondsOf(clip.facts, clip.referenceFrame));
    const rgb = pictureToRgb(bakeFor(program, picture, THUMB_TABLE), picture);
    const jpeg = await encodeJpeg(rgb, picture.format.width, picture.format.height);
    res.set('Cache-Control', 'private, no-cache').type('jpeg').send(jpeg);
  });

  const sendMade =
    (path: (hash: string) => string, what: string) => async (req: Request<{ id: string }>, res: Response) => {
      const clip = await clipOf(req);
      if (clip.proxy !== 'ready') throw new HttpError(404, `The ${what} of this clip is not made yet.`);
      res.sendFile(path(clip.hash), { immutable: true, maxAge: YEAR * 1000, dotfiles: 'allow' });
    };
  routes.get('/:id/proxy.mp4', sendMade(library.proxy, 'proxy'));
  routes.get('/:id/strip.jpg', sendMade(library.strip, 'strip'));
  return routes;
}
