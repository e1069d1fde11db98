import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server as TusServer } from '@tus/server';
import { Router } from 'express';
import { z } from 'zod';
import { cameraName } from '@inkavo/core/intake/detectCameras';
import { jobSchema } from '@inkavo/core/model/job';
import { idSchema } from '@inkavo/core/model/outing';
import {
  folderPatch,
  folderRequest,
  importRequest,
  sourceContentSchema,
  sourceSchema,
} from '@inkavo/core/model/source';
import type { Api } from '../http/api';
import { ownMachineOnly } from '../http/ownMachine';
import { badRequest, httpErrorOf, notFound, unlessGone } from '../http/problems';
import { UPLOAD_EXPIRES_MS, uploadMetadata, Uploads } from '../jobs/uploads';
import type { Parts } from '../parts';
import { notThere } from '../sources';

const MAX_UPLOAD = 1024 ** 4;
/** Path for uploads. */
export const UPLOADS = '/api/uploads';

/** Maximum size of a dive log in bytes. */
const MAX_LOG = 2_000_000;
const byId = z.object({ id: idSchema });

/** Imports clips from places on the server's machine: the card, plugged-in disks, allowed folders. */
export function intakeRoutes(api: Api, { sources, outings, jobs, runner, frames, events, disk }: Parts): void {
  api.route(
    {
      method: 'get',
      path: '/sources',
      summary: 'Places on the server’s machine that clips come from',
      answers: { 200: z.array(sourceSchema) },
    },
    async ({ answer }) => answer(200, await sources.list()),
  );

  api.route(
    {
      method: 'post',
      path: '/sources',
      summary: 'Allow a folder of the server’s machine; from that machine alone',
      body: folderRequest,
      answers: { 201: sourceSchema },
    },
    async ({ body, req, answer }) => {
      ownMachineOnly(req, ELSEWHERE);
      const source = await sources.allow(body.path);
      events.send({ type: 'sources' });
      answer(201, source);
    },
  );

  api.route(
    {
      method: 'patch',
      path: '/sources/{id}',
      summary: 'Say whether finished files may be put into a folder; from that machine alone',
      params: byId,
      body: folderPatch,
      answers: { 200: sourceSchema },
    },
    async ({ params, body, req, answer }) => {
      ownMachineOnly(req, ELSEWHERE);
      const source = await sources.setWritable(params.id, body.writable);
      events.send({ type: 'sources' });
      answer(200, source);
    },
  );

  api.route(
    {
      method: 'delete',
      path: '/sources/{id}',
      summary: 'Do not allow a folder any more; from that machine alone',
      params: byId,
      answers: { 204: null },
    },
    async ({ params, req, answer }) => {
      ownMachineOnly(req, ELSEWHERE);
      await sources.forget(params.id);
      events.send({ type: 'sources' });
      answer(204);
    },
  );

  api.route(
    {
      method: 'get',
      path: '/sources/{id}',
      summary: 'Its cameras and recordings, as they were told apart',
      params: byId,
      answers: { 200: sourceContentSchema },
    },
    ({ params, res, answer }) =>
      unlessGone(res, async (signal) => {
        const content = await sources.content(params.id, signal);
        answer(200, { ...content, freeBytes: Math.max(0, await disk.left()) });
      }),
  );

  api.route(
    {
      method: 'get',
      path: '/sources/{id}/picture.jpg',
      summary: 'A frame of a file that has not been brought in',
      params: byId,
      query: z.object({ path: z.string().min(1).max(1000) }),
      answers: { 200: { type: 'image/jpeg', holds: 'The frame, 320 pixels wide.' } },
    },
    ({ params, query, res }) =>
      unlessGone(res, async (signal) => {
        const source = await sources.get(params.id);
        const jpeg = await frames.preview(sources.pathOf(source, query.path), signal);
        res.set('Cache-Control', 'private, max-age=3600').type('jpg').send(jpeg);
      }),
  );

  api.route(
    {
      method: 'get',
      path: '/disk',
      summary: 'Bytes that may still be brought in',
      answers: { 200: z.object({ freeBytes: z.number() }) },
    },
    async ({ answer }) => answer(200, { freeBytes: Math.max(0, await disk.left()) }),
  );

  // Dive logs next to the clips, whole: they are small.
  api.route(
    {
      method: 'get',
      path: '/card/logs',
      summary: 'Dive logs on the card and on disks',
      answers: { 200: z.array(z.object({ name: z.string(), text: z.string() })) },
    },
    async ({ answer }) => answer(200, await sources.texts('.uddf', MAX_LOG)),
  );

  api.route(
    {
      method: 'post',
      path: '/outings/{id}/import',
      summary: 'Bring files from a place on the server’s machine into an outing',
      params: byId,
      body: importRequest,
      answers: { 202: z.array(jobSchema) },
    },
    async ({ params, body, answer }) => {
      const outing = await outings.get(params.id);
      const source = await sources.get(body.source);
      const files = new Map((await sources.files(source)).map((f) => [f.path, f]));
      const wanted = body.clips.map(({ paths, camera, kind }) => {
        const chapters = paths.map((path) => {
          const file = files.get(path);
          if (!file) throw notThere(source, path);
          return file;
        });
        const [first, ...more] = chapters.map((f) => join(source.path, f.path));
        const payload = {
          kind: 'import',
          outingId: outing.id,
          from: first,
          ...(more.length ? { more } : {}),
          bytes: chapters.reduce((sum, f) => sum + f.bytes, 0),
          move: false,
          name: chapters[0].name,
          camera: camera ?? cameraName(chapters[0].folder),
          ...(kind ? { cameraKind: kind } : {}),
        } as const;
        return { payload, title: chapters[0].name, outingId: outing.id };
      });
      const added = await jobs.addAll(wanted);
      runner.wake();
      answer(202, added);
    },
  );
}

/** Folders can be allowed only on the machine itself, not over the network. */
const ELSEWHERE = 'Folders are allowed on the server’s own machine, not over the network.';

/** Resumable uploads (tus 1.0). Their library reads the bodies, so this comes before any body parser. */
export function uploadRoutes({ library, outings, jobs, runner, disk }: Parts): Router {
  const routes = Router();
  const uploads = new Uploads(library, jobs);
  /** Error responses of the upload library. */
  const refusal = (error: unknown) => {
    const { status, message } = httpErrorOf(error);
    return { status_code: status, body: message };
  };
  const store = new FileStore({ directory: library.uploads, expirationPeriodInMilliseconds: UPLOAD_EXPIRES_MS });
  const tus = new TusServer({
    path: UPLOADS,
    datastore: store,
    relativeLocation: true,
    maxSize: MAX_UPLOAD,
    allowedOrigins: [],
    // Each chunk is accepted only if there is space: a full disk is reported as such.
    async onIncomingRequest(req) {
      if (req.method !== 'PATCH') return;
      await disk.need(Number(req.headers.get('content-length') ?? 0)).catch((error: unknown) => {
        throw refusal(error);
      });
    },
    async onUploadCreate(_req, upload) {
      try {
        const metadata = uploadMetadata.safeParse(upload.metadata);
        if (!metadata.success) throw badRequest('A file name and an outing are needed.');
        const outingId = metadata.data.outing;
        if (!idSchema.safeParse(outingId).success) throw notFound('outing');
        await outings.get(outingId);
        await disk.need(upload.size ?? 0);
      } catch (error) {
        throw refusal(error);
      }
      return { metadata: upload.metadata };
    },
    async onUploadFinish(_req, upload) {
      try {
        const job = await uploads.finished(upload.id);
        runner.wake();
        return job ? { headers: { 'X-Job': job.id } } : {};
      } catch (error) {
        throw refusal(error);
      }
    },
  });
  void store.deleteExpired().catch(() => undefined);
  routes.all(['/uploads', '/uploads/*rest'], (req, res) => {
    // The upload library expects the original URL.
    req.url = req.originalUrl;
    return tus.handle(req, res);
  });
  return routes;
}
