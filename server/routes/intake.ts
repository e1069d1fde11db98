import { existsSync, lstatSync, readdirSync, readFileSync } from 'node:fs';
import { basename, dirname, join, relative, resolve, sep } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server as TusServer } from '@tus/server';
import { Router } from 'express';
import { z } from 'zod';
import { cardFileSchema, importRequest, jobSchema, type CardFile } from '@inkavo/core/model/job';
import { idSchema } from '@inkavo/core/model/outing';
import type { Api } from '../http/api';
import { badRequest, httpErrorOf, notFound } from '../http/problems';
import { Uploads } from '../jobs/uploads';
import type { Parts } from '../parts';

const VIDEO = /\.(mp4|mov|m4v|mkv|avi|mts|m2ts|mxf|webm|insv|lrv)$/i;
const MAX_UPLOAD = 1024 ** 4;
/** An upload that nobody went on with for so long is removed. */
const UPLOAD_EXPIRES_MS = 14 * 86_400_000;
/** Path under which uploads are taken. */
export const UPLOADS = '/api/uploads';

/** Files on the card that a name fits, with their sizes, in the order of their paths. Links are not followed. */
function listFiles(card: string, fits: (path: string) => boolean): { path: string; bytes: number }[] {
  if (!existsSync(card)) return [];
  return readdirSync(card, { recursive: true, encoding: 'utf8' })
    .filter(fits)
    .sort()
    .flatMap((path) => {
      const found = lstatSync(join(card, path), { throwIfNoEntry: false });
      return found?.isFile() ? [{ path, bytes: found.size }] : [];
    });
}

const listCard = (card: string): CardFile[] =>
  listFiles(card, (path) => VIDEO.test(path)).map(({ path, bytes }) => ({
    path: path.split(sep).join('/'),
    folder: basename(dirname(path)),
    name: basename(path),
    bytes,
  }));

/** No dive log is larger, in bytes. */
const MAX_LOG = 2_000_000;

/** A camera's name from its folder on the card: HELMET_CAMERA is "Helmet camera". */
export function cameraName(folder: string): string {
  const words = folder.replace(/[_-]+/g, ' ').trim().toLowerCase().slice(0, 100);
  return words ? words[0].toUpperCase() + words.slice(1) : 'Camera';
}

/** Files in from the card. */
export function cardRoutes(api: Api, { config, outings, jobs, runner }: Parts): void {
  api.route(
    {
      method: 'get',
      path: '/card',
      summary: 'Video files on the memory card',
      answers: { 200: z.object({ present: z.boolean(), files: z.array(cardFileSchema) }) },
    },
    ({ answer }) => answer(200, { present: existsSync(config.card), files: listCard(config.card) }),
  );

  // Dive logs that lie on the card beside the clips, whole: they are small.
  api.route(
    {
      method: 'get',
      path: '/card/logs',
      summary: 'Dive logs on the memory card',
      answers: { 200: z.array(z.object({ name: z.string(), text: z.string() })) },
    },
    ({ answer }) => {
      const files = listFiles(config.card, (path) => path.endsWith('.uddf')).filter((f) => f.bytes <= MAX_LOG);
      answer(
        200,
        files.map(({ path }) => ({ name: basename(path), text: readFileSync(join(config.card, path), 'utf8') })),
      );
    },
  );

  api.route(
    {
      method: 'post',
      path: '/outings/{id}/import',
      summary: 'Bring files from the card into an outing',
      params: z.object({ id: idSchema }),
      body: importRequest,
      answers: { 202: z.array(jobSchema) },
    },
    async ({ params, body: { paths }, answer }) => {
      const outing = await outings.get(params.id);
      const files = listCard(config.card);
      const wanted = paths.map((path) => {
        const found = files.find((f) => f.path === path);
        if (!found) throw badRequest(`"${path}" is not on the card.`);
        const from = join(config.card, found.path);
        if (relative(resolve(config.card), resolve(from)).startsWith('..'))
          throw badRequest('This path leaves the card.');
        const payload = {
          kind: 'import',
          outingId: outing.id,
          from,
          move: false,
          name: found.name,
          camera: cameraName(found.folder),
        } as const;
        return { payload, title: found.name, outingId: outing.id };
      });
      const added = await jobs.addAll(wanted);
      runner.wake();
      answer(202, added);
    },
  );
}

/** Resumable uploads (tus 1.0). Bodies are read by its library, so this stands before anything that reads them. */
export function uploadRoutes({ library, outings, jobs, runner, room }: Parts): Router {
  const routes = Router();
  const uploads = new Uploads(library, jobs);
  /** What the upload library answers for an error. */
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
    // Each part is taken only with room for it: a disk that is full is said as what it is.
    async onIncomingRequest(req) {
      if (req.method !== 'PATCH') return;
      await room.need(Number(req.headers.get('content-length') ?? 0)).catch((error: unknown) => {
        throw refusal(error);
      });
    },
    async onUploadCreate(_req, upload) {
      try {
        const outingId = upload.metadata?.outing;
        if (!upload.metadata?.filename || !outingId) throw badRequest('A file name and an outing are needed.');
        if (!idSchema.safeParse(outingId).success) throw notFound('outing');
        await outings.get(outingId);
        await room.need(upload.size ?? 0);
      } catch (error) {
        throw refusal(error);
      }
      return { metadata: upload.metadata };
    },
    async onUploadFinish(_req, upload) {
      try {
        const job = await uploads.finished(upload.id, upload.metadata ?? {});
        runner.wake();
        return { headers: { 'X-Job': job.id } };
      } catch (error) {
        throw refusal(error);
      }
    },
  });
  void store.deleteExpired().catch(() => undefined);
  routes.all(['/uploads', '/uploads/*rest'], (req, res) => {
    // The upload library reads the address as the client sent it.
    req.url = req.originalUrl;
    return tus.handle(req, res);
  });
  return routes;
}
