import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, join, relative, resolve, sep } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server as TusServer } from '@tus/server';
import { json, Router } from 'express';
import { importRequest, type CardFile } from '@inkavo/core/model/job';
import { check, HttpError } from '../http';
import type { Parts } from '../parts';

const VIDEO = /\.(mp4|mov|m4v|mkv|avi|mts|m2ts|mxf|webm|insv|lrv)$/i;
const MAX_UPLOAD = 1024 ** 4;
/** Path under which uploads are taken. */
export const UPLOADS = '/api/uploads';

/** Video files on the card, in the order of their paths. */
function listCard(card: string): CardFile[] {
  if (!existsSync(card)) return [];
  return readdirSync(card, { recursive: true, encoding: 'utf8' })
    .filter((path) => VIDEO.test(path))
    .sort()
    .map((path) => ({
      path: path.split(sep).join('/'),
      folder: basename(dirname(path)),
      name: basename(path),
      bytes: statSync(join(card, path)).size,
    }));
}

/** No dive log is larger, in bytes. */
const MAX_LOG = 2_000_000;

/** A camera's name from its folder on the card: HELMET_CAMERA is "Helmet camera". */
function cameraName(folder: string): string {
  const words = folder.replace(/[_-]+/g, ' ').trim().toLowerCase();
  return words ? words[0].toUpperCase() + words.slice(1) : 'Camera';
}

/** Files in: from the card, and by resumable upload (tus 1.0). */
export function intakeRoutes({ config, library, outings, jobs, runner }: Parts): Router {
  const routes = Router();

  routes.get('/card', (_req, res) => {
    res.json({ present: existsSync(config.card), files: listCard(config.card) });
  });

  // Dive logs that lie on the card beside the clips, whole: they are small.
  routes.get('/card/logs', (_req, res) => {
    if (!existsSync(config.card)) return void res.json([]);
    const paths = readdirSync(config.card, { recursive: true, encoding: 'utf8' }).filter((p) => p.endsWith('.uddf'));
    const files = paths.map((p) => join(config.card, p)).filter((p) => statSync(p).size <= MAX_LOG);
    res.json(files.map((p) => ({ name: basename(p), text: readFileSync(p, 'utf8') })));
  });

  routes.post('/outings/:id/import', json(), async (req, res) => {
    const outing = await outings.get(req.params.id);
    const { paths } = check(importRequest, req.body);
    const files = listCard(config.card);
    const wanted = paths.map((path) => {
      const found = files.find((f) => f.path === path);
      if (!found) throw new HttpError(400, `"${path}" is not on the card.`);
      return found;
    });
    const added = [];
    for (const file of wanted) {
      const from = join(config.card, file.path);
      if (relative(resolve(config.card), resolve(from)).startsWith('..'))
        throw new HttpError(400, 'This path leaves the card.');
      const payload = {
        kind: 'import',
        outingId: outing.id,
        from,
        move: false,
        name: file.name,
        camera: cameraName(file.folder),
      } as const;
      added.push(await jobs.add({ payload, title: file.name, outingId: outing.id }));
    }
    runner.wake();
    res.status(202).json(added);
  });

  const tus = new TusServer({
    path: UPLOADS,
    datastore: new FileStore({ directory: library.uploads }),
    relativeLocation: true,
    maxSize: MAX_UPLOAD,
    allowedOrigins: [],
    async onUploadCreate(_req, upload) {
      if (!upload.metadata?.filename || !upload.metadata.outing)
        throw { status_code: 400, body: 'A file name and an outing are needed.' };
      await outings.get(upload.metadata.outing);
      return { metadata: upload.metadata };
    },
    async onUploadFinish(_req, upload) {
      const name = basename(String(upload.metadata?.filename)).slice(0, 120);
      const outingId = String(upload.metadata?.outing);
      const payload = {
        kind: 'import',
        outingId,
        from: join(library.uploads, upload.id),
        move: true,
        name,
        camera: upload.metadata?.camera || 'Brought in by hand',
      } as const;
      const job = await jobs.add({ payload, title: name, outingId });
      runner.wake();
      return { headers: { 'X-Job': job.id } };
    },
  });
  routes.all(['/uploads', '/uploads/*rest'], (req, res) => {
    // The upload library reads the address as the client sent it.
    req.url = req.originalUrl;
    return tus.handle(req, res);
  });
  return routes;
}
