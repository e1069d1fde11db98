import { existsSync } from 'node:fs';
import { z } from 'zod';
import { stepsStateSchema, changeSchema } from '@inkavo/core/model/change';
import { newStep, stepsSchema } from '@inkavo/core/model/grade';
import { OWNERS } from '@inkavo/core/model/lists';
import { cameraSchema, clipPatch, clipSchema, idSchema, outingSchema, splitRequest } from '@inkavo/core/model/outing';
import { secondsOf } from '@inkavo/core/model/facts';
import { proxyPartsSchema } from '@inkavo/core/model/proxyParts';
import { MOST_NOISE } from '@inkavo/core/program/source';
import { makeChart } from '@inkavo/media/frames/proxy';
import { checkMatch, etagOf, type Api } from '../http/api';
import { badRequest, requireFrame, HttpError, unlessGone } from '../http/problems';
import type { Parts } from '../parts';

const one = z.object({ id: idSchema });
const even = z.number().int().nonnegative().multipleOf(2);
/** Noise reduction before anything else: luma and chroma, separated by a comma; 1 is the measured level. */
const amount = z.number().min(0).max(MOST_NOISE);
const noiseQuery = z
  .string()
  .regex(/^\d+(\.\d+)?,\d+(\.\d+)?$/)
  .transform((text) => text.split(',').map(Number))
  .pipe(z.tuple([amount, amount]))
  .transform(([luma, chroma]) => ({ luma, chroma }))
  .optional();
const frameQuery = z.object({
  frame: z.coerce.number().int().nonnegative(),
  width: z.coerce.number().int().min(16).max(8192),
  /** A part of the frame in the file's pixels: x, y, width and height, separated by commas. */
  part: z
    .string()
    .regex(/^(\d+,){3}\d+$/)
    .transform((text) => {
      const [x, y, width, height] = text.split(',').map(Number);
      return { x, y, width, height };
    })
    .pipe(z.object({ x: even, y: even, width: even.min(16), height: even.min(16) }))
    .optional(),
  noise: noiseQuery,
  /** Compressed, for slow networks. */
  packed: z.literal('1').optional(),
});
const frameNumber = z.coerce.number().int().nonnegative();
const thumbQuery = z.object({
  width: z.coerce.number().int().min(16).max(960).default(320),
  graded: z.enum(['0', '1']).default('1'),
  /** Revision of the picture, from the list of clips: with it, the response may be cached. */
  v: z.string().max(80).optional(),
});
/** Makes a new address for remade files, which browsers may have cached. */
const versionQuery = z.object({ v: z.string().max(40).optional() });
const previewRequest = z.object({
  steps: stepsSchema,
  frame: z.number().int().nonnegative(),
  width: z.number().int().min(16).max(1280).default(640),
});

const YEAR = 31_536_000;
const HOUR = 3600;
/** A decoded frame never changes; a denoised one may, with a newer version of the program. */
const keptFor = (noise: object | undefined): string =>
  noise ? `private, max-age=${HOUR}` : `private, max-age=${YEAR}, immutable`;
const JPEG = { type: 'image/jpeg', holds: 'A picture.' };

/** Clips: their data, frames, proxies, thumbnails and steps. */
export function clipRoutes(api: Api, parts: Parts): void {
  const { clips, changes, outings, shelf, library, frames, thumbs, strips, proxies, events } = parts;

  api.route(
    {
      method: 'get',
      path: '/clips/{id}',
      summary: 'A clip with its camera and its outing',
      params: one,
      answers: { 200: z.object({ clip: clipSchema, camera: cameraSchema, outing: outingSchema }) },
    },
    async ({ params, res, answer }) => {
      const clip = await clips.get(params.id);
      res.set('ETag', etagOf(clip));
      answer(200, { clip, camera: await outings.camera(clip.cameraId), outing: await outings.get(clip.outingId) });
    },
  );

  api.route(
    {
      method: 'patch',
      path: '/clips/{id}',
      summary: 'Change in, out, name, camera, place in the outing',
      params: one,
      body: clipPatch,
      answers: { 200: clipSchema },
    },
    async ({ params, body, req, answer }) => {
      checkMatch(req, await clips.get(params.id));
      const clip = await clips.update(params.id, body);
      events.send({ type: 'outing', id: clip.outingId });
      answer(200, clip);
    },
  );

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/split',
      summary: 'Cut a clip in two; what was cut off before under this id, and removed, is put back',
      params: one,
      body: splitRequest,
      answers: { 200: z.object({ clip: clipSchema, rest: clipSchema }) },
    },
    async ({ params, body, answer }) => {
      const both = await clips.split(params.id, body);
      events.send({ type: 'outing', id: both.clip.outingId });
      answer(200, both);
    },
  );

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/changes',
      summary: 'Store a change of steps, joined step by step with what was stored since it was made',
      params: one,
      body: changeSchema,
      answers: { 200: stepsStateSchema },
    },
    async ({ params, body, answer }) => {
      for (const owner of OWNERS) await shelf.check(body[owner]?.next ?? []);
      const loose = Object.values(body.overrides?.next ?? {}).flatMap(({ params: p }) => (p ? [p] : []));
      await shelf.check(
        loose.filter((p) => typeof p.lut === 'string').map((p) => newStep('lut', 'loose', { lut: p.lut })),
      );
      const { answer: stored, changed } = await changes.add(params.id, body);
      answer(200, stored);
      if (changed.length === 0) return;
      const { outingId } = await clips.get(params.id);
      const shared = changed.some((o) => o !== 'clip');
      events.send({ type: 'clip', id: params.id, outingId, shared });
      if (shared) thumbs.makeAhead(outingId);
    },
  );

  /** A clip that has this frame, and the source of its frames. */
  const framesOf = async (id: string, frame: number) => {
    const clip = await clips.get(id);
    requireFrame(clip, frame);
    return { clip, source: await clips.source(clip, library.original(clip.hash)) };
  };

  // A still frame: planes of 16-bit little-endian Y', Cb, Cr, concatenated, 4:4:4.
  api.route(
    {
      method: 'get',
      path: '/clips/{id}/frame',
      summary: 'A frame at rest, or a part of it',
      params: one,
      query: frameQuery,
      answers: {
        200: {
          type: 'application/octet-stream',
          holds: 'Planes of 16-bit Y′, Cb, Cr, 4:4:4; packed: as core/program/cpu/packedSamples.ts has them.',
        },
      },
    },
    async ({ params, query, res }) => {
      const { frame, width, part, noise, packed } = query;
      const { clip, source } = await framesOf(params.id, frame);
      const { facts } = clip;
      if (part && (part.x + part.width > facts.width || part.y + part.height > facts.height))
        throw badRequest(`This part is not in the frame: it has ${facts.width} × ${facts.height} pixels.`);
      await unlessGone(res, async (signal) => {
        const picture = await frames.frame({ hash: clip.hash, source, frame, width, part, noise }, signal);
        const bytes = packed ? await frames.packed(picture, signal) : Buffer.from(picture.y.buffer);
        if (packed) res.set('Content-Encoding', 'gzip');
        res.set({
          'Content-Type': 'application/octet-stream',
          'Cache-Control': keptFor(noise),
          'X-Frame-Width': String(picture.format.width),
          'X-Frame-Height': String(picture.format.height),
        });
        res.end(bytes);
      });
    },
  );

  // Input of the maps of haze and water: from the file's own pixels at any display size, as in an export.
  api.route(
    {
      method: 'get',
      path: '/clips/{id}/cells',
      summary: 'A frame averaged over cells of the file’s pixels',
      params: one,
      query: frameQuery.pick({ frame: true, noise: true }),
      answers: { 200: { type: 'application/octet-stream', holds: '32-bit little-endian R′, G′, B′ of each cell.' } },
    },
    async ({ params, query: { frame, noise }, res }) => {
      const { clip, source } = await framesOf(params.id, frame);
      await unlessGone(res, async (signal) => {
        const cells = await frames.cells({ hash: clip.hash, source, frame, noise }, signal);
        res.set({
          'Content-Type': 'application/octet-stream',
          'Cache-Control': keptFor(noise),
        });
        res.end(Buffer.from(cells.buffer, cells.byteOffset, cells.byteLength));
      });
    },
  );

  api.route(
    {
      method: 'get',
      path: '/clips/{id}/thumb.jpg',
      summary: 'The frame that stands for a clip',
      params: one,
      query: thumbQuery,
      answers: { 200: JPEG },
    },
    async ({ params, query: { width, graded, v }, res }) => {
      const clip = await clips.get(params.id);
      await unlessGone(res, async (signal) => {
        const jpeg = await thumbs.of(clip, { graded: graded === '1', width }, signal);
        // An address with the picture's revision identifies its content.
        const caching = v ? `private, max-age=${YEAR}, immutable` : 'private, no-cache';
        res.set('Cache-Control', caching).type('jpeg').send(jpeg);
      });
    },
  );

  api.route(
    {
      method: 'post',
      path: '/clips/{id}/preview.jpg',
      summary: 'A frame through steps that are not stored',
      params: one,
      body: previewRequest,
      answers: { 200: JPEG },
    },
    async ({ params, body: { steps, frame, width }, res }) => {
      const { clip, source } = await framesOf(params.id, frame);
      const grade = { steps, luts: await shelf.textsFor(steps), seconds: secondsOf(clip.facts, frame) };
      await unlessGone(res, async (signal) => {
        const jpeg = await frames.thumb({ hash: clip.hash, source, frame, width }, grade, signal);
        res.set('Cache-Control', 'private, no-cache').type('jpeg').send(jpeg);
      });
    },
  );

  const KEPT = { immutable: true, maxAge: YEAR * 1000, dotfiles: 'allow' } as const;
  api.route(
    {
      method: 'get',
      path: '/clips/{id}/proxy.mp4',
      summary: 'The proxy of a clip',
      params: one,
      query: versionQuery,
      answers: { 200: { type: 'video/mp4', holds: 'The proxy.' } },
    },
    async ({ params, res }) => {
      const clip = await clips.get(params.id);
      if (clip.proxy !== 'ready') throw new HttpError(404, 'not-found', 'The proxy of this clip is not made yet.');
      res.sendFile(library.proxy(clip.hash), KEPT);
    },
  );
  api.route(
    {
      method: 'get',
      path: '/clips/{id}/proxy-parts',
      summary: 'What can be played of a proxy that is being made in parts',
      params: one,
      answers: { 200: proxyPartsSchema },
    },
    async ({ params, answer }) => answer(200, proxies.parts((await clips.get(params.id)).hash)),
  );
  api.route(
    {
      method: 'get',
      path: '/clips/{id}/proxy-part.mp4',
      summary: 'A part of a proxy, with its sound, while the proxy is not whole',
      params: one,
      query: versionQuery.extend({ first: z.coerce.number().int().nonnegative() }),
      answers: { 200: { type: 'video/mp4', holds: 'The part that begins with this frame of the clip.' } },
    },
    async ({ params, query, res }) => {
      const path = proxies.part((await clips.get(params.id)).hash, query.first);
      if (!path)
        throw new HttpError(404, 'not-found', 'There is no such part: it is not made yet, or the proxy is whole.');
      res.sendFile(path, KEPT);
    },
  );
  api.route(
    {
      method: 'post',
      path: '/clips/{id}/proxy-wanted',
      summary: 'Make the proxy of this clip before others, from a frame on; waits: somebody waits to play from there',
      params: one,
      body: z.object({ frame: z.number().int().nonnegative(), waits: z.boolean().default(false) }),
      answers: { 204: null },
    },
    async ({ params, body, answer }) => {
      const clip = await clips.get(params.id);
      requireFrame(clip, body.frame);
      await proxies.want(clip.hash, body);
      answer(204);
    },
  );
  api.route(
    {
      method: 'get',
      path: '/clips/{id}/strip.jpg',
      summary: 'Frames of a clip side by side, or of a part of it, from the first to the last',
      params: one,
      query: versionQuery.extend({ first: frameNumber.default(0), last: frameNumber.optional() }),
      answers: { 200: { type: 'image/jpeg', holds: 'The strip.' } },
    },
    async ({ params, query: { first, last }, res }) => {
      const { hash, facts } = await clips.get(params.id);
      const end = facts.frames - 1;
      if (first > (last ?? end) || (last ?? 0) > end) throw badRequest(`From the first to the last, at most ${end}.`);
      const part = last !== undefined && (first > 0 || last < end);
      await unlessGone(res, async (signal) => {
        if (!part) return res.sendFile(await strips.of(hash, signal), KEPT);
        res
          .set('Cache-Control', keptFor(undefined))
          .type('jpeg')
          .send(await strips.part(hash, first, last, signal));
      });
    },
  );

  let chart: Promise<void> | undefined;
  api.route(
    {
      method: 'get',
      path: '/proxy-chart.mp4',
      summary: 'Known colours, as a proxy has them: what a browser makes of proxies is measured with it',
      query: versionQuery,
      answers: { 200: { type: 'video/mp4', holds: 'The chart.' } },
    },
    async ({ res }) => {
      if (!existsSync(library.chart)) {
        chart ??= makeChart(library.chart).finally(() => (chart = undefined));
        await chart;
      }
      res.sendFile(library.chart, { immutable: true, maxAge: YEAR * 1000, dotfiles: 'allow' });
    },
  );
}
