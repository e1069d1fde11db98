import { createServer, type IncomingMessage, type RequestListener, type Server } from 'node:http';
import { join } from 'node:path';
import express from 'express';
import compression from 'compression';
import compressedStatic from 'express-static-gzip';
import helmet from 'helmet';
import { warmExports } from '@inkavo/media/export/exportClip';
import { closeThreads, warmThreads } from '@inkavo/media/threads/pool';
import { Library, LOOPBACK, RESERVE, type Config } from './config';
import { openDatabase } from './db/connect';
import { lockFolder } from './db/lock';
import { openDemo } from './demo/load';
import { Events } from './events';
import { Frames } from './frames';
import { Api } from './http/api';
import { Repeats } from './http/repeats';
import { answerErrors, HttpError, limitDepth, ownPagesOnly } from './http/problems';
import { reprobeFiles, replaceProxies } from './jobs/reprobe';
import { Purge } from './jobs/purge';
import { Runner } from './jobs/runner';
import { Uploads } from './jobs/uploads';
import { makeWorkers, onGivenUp } from './jobs/workers';
import type { Parts } from './parts';
import { isDiskFull, DiskSpace } from './diskSpace';
import { clipRoutes } from './routes/clips';
import { deliveryRoutes } from './routes/deliveries';
import { demoRoutes } from './routes/demo';
import { intakeRoutes, uploadRoutes } from './routes/intake';
import { jobRoutes } from './routes/jobs';
import { keptRoutes } from './routes/kept';
import { outingRoutes } from './routes/outings';
import { followRoutes } from './routes/follow';
import { readingRoutes } from './routes/reading';
import { removedRoutes } from './routes/removed';
import { togetherRoutes } from './routes/together';
import { stillRoutes } from './routes/stills';
import { sharingRoutes } from './routes/sharing';
import { shelfRoutes } from './routes/shelf';
import { admittedOnly } from './sharing/admit';
import { fromOtherDevice, KEEP_ALIVE_MS } from './sharing/listener';
import { Sharing } from './sharing/sharing';
import { Sources } from './sources';
import { AnswerStore } from './stores/answers';
import { ChangeStore } from './stores/changes';
import { ClipStore } from './stores/clips';
import { DeviceStore } from './stores/devices';
import { JobStore } from './stores/jobs';
import { KeptStore } from './stores/kept';
import { OutingStore } from './stores/outings';
import { PresetStore } from './stores/presets';
import { RemovedStore } from './stores/removed';
import { ShelfStore } from './stores/shelf';
import { PictureFiles } from './pictureFiles';
import { Proxies } from './proxies';
import { Strips } from './strips';
import { Thumbs } from './thumbs';

/** A running server: its address, and how to close it. */
export interface Running {
  address: string;
  parts: Parts;
  close(): Promise<void>;
}

/**
 * Locks the data folder, listens, and then resumes work interrupted by a crash: a second server on the same folder or
 * port touches nothing of the first one's. Requests wait until everything is ready.
 */
export async function startServer(config: Config): Promise<Running> {
  const library = new Library(config.data);
  const unlock = lockFolder(config.data);
  let begin!: (application: RequestListener) => void;
  const ready = new Promise<RequestListener>((resolve) => (begin = resolve));
  const server = createServer((req, res) => void ready.then((application) => application(req, res)));
  server.keepAliveTimeout = KEEP_ALIVE_MS;
  try {
    await new Promise<void>((resolve, reject) =>
      server.once('error', reject).listen(config.port, config.host, resolve),
    );
    library.sweep();
    const { parts, closeParts } = await makeParts(config, library);
    const application = makeApplication(parts);
    begin(application);
    await parts.sharing.start(application);
    return {
      address: addressOf(server, config.host),
      parts,
      async close() {
        parts.events.close();
        await parts.sharing.close();
        server.closeAllConnections();
        await new Promise((resolve) => server.close(resolve));
        await closeParts();
        unlock();
      },
    };
  } catch (error) {
    server.close();
    unlock();
    throw error;
  }
}

async function makeParts(config: Config, library: Library): Promise<{ parts: Parts; closeParts(): Promise<void> }> {
  const disk = new DiskSpace(config.data, config.reserve ?? RESERVE);
  const db = await openDatabase(library.database);
  const [outings, clips, changes, jobs] = [
    new OutingStore(db),
    new ClipStore(db),
    new ChangeStore(db),
    new JobStore(db),
  ];
  const shelf = new ShelfStore(db, library.lut);
  const answers = new AnswerStore(db);
  const kept = new KeptStore(db);
  const presets = new PresetStore(db);
  const removed = new RemovedStore(db);
  const purge = new Purge(library, removed, clips);
  const events = new Events(config.beatMs);
  const sources = new Sources(config, db);
  sources.watch(events);
  const sharing = new Sharing(config, library, new DeviceStore(db), events);
  const wake = (): void => runner.wake();
  const frames = new Frames(new PictureFiles(library));
  const thumbs = new Thumbs(library, { clips, outings, shelf }, frames);
  thumbs.sweep();
  const strips = new Strips(library, clips);
  const proxies = new Proxies(library, jobs, events);
  const { renderer } = config;
  const workers = makeWorkers({
    ...{ library, outings, clips, jobs, shelf, sources, thumbs, strips, proxies, events, disk, renderer, wake },
  });
  const runner: Runner = new Runner(jobs, workers, onGivenUp({ clips, events }), events, disk);

  for (const payload of await jobs.recover())
    if (payload.kind === 'proxy') await clips.setProxy(payload.hash, 'failed');
  await new Uploads(library, jobs).recover();
  await replaceProxies({ library, clips, jobs });
  await changes.forgetOld();
  await purge.start();
  await disk.fillBallast();
  runner.wake();
  const looking = new AbortController();
  const looked = reprobeFiles({ library, clips, jobs, events, wake }, looking.signal).catch((error: unknown) =>
    console.error(error),
  );
  if (config.demo && !(await outings.any())) await openDemo({ config, outings, shelf, jobs, runner }, true);
  // Started in advance, so that a reading or an export need not wait for its thread.
  setImmediate(warmThreads);
  setImmediate(warmExports);
  return {
    parts: {
      ...{
        config,
        library,
        answers,
        outings,
        clips,
        changes,
        jobs,
        shelf,
        kept,
        presets,
        sources,
        runner,
        events,
        disk,
        removed,
        purge,
        sharing,
      },
      frames,
      thumbs,
      strips,
      proxies,
    },
    async closeParts() {
      sources.close();
      purge.close();
      thumbs.close();
      looking.abort();
      await looked;
      await runner.close();
      await closeThreads();
      await db.destroy();
    },
  };
}

function addressOf(server: Server, host: string): string {
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : 0;
  return `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
}

function makeApplication(parts: Parts): express.Express {
  const { config, events, disk } = parts;
  const api = new Api(config.strict ?? false, new Repeats(parts.answers));
  outingRoutes(api, parts);
  clipRoutes(api, parts);
  togetherRoutes(api, parts);
  readingRoutes(api, parts);
  followRoutes(api, parts);
  shelfRoutes(api, parts);
  intakeRoutes(api, parts);
  deliveryRoutes(api, parts);
  jobRoutes(api, parts);
  // Before the route of a single kept frame, which would match it.
  stillRoutes(api, parts);
  keptRoutes(api, parts);
  removedRoutes(api, parts);
  demoRoutes(api, parts);
  sharingRoutes(api, parts);
  // Created on demand: it takes longer than the rest of the start.
  let description: object | undefined;

  const app = express();
  app.disable('x-powered-by');
  const loopback = (req: IncomingMessage): boolean => LOOPBACK.includes(config.host) && !fromOtherDevice(req);
  const [local, distant] = [headers(true), headers(false)];
  app.use((req, res, next) => (loopback(req) ? local : distant)(req, res, next));
  app.use(ownPagesOnly(loopback));
  app.use('/api', admittedOnly(parts.sharing));
  // For tablets on a wireless network. Pictures and films are already compressed, events must not be delayed, and range
  // requests count a file's own bytes.
  const whole = (req: express.Request): boolean => req.path !== '/api/events' && req.headers.range === undefined;
  app.use(compression({ filter: (req, res) => whole(req) && compression.filter(req, res) }));
  app.use('/api', uploadRoutes(parts));
  app.get('/api/events', events.handle);
  app.get('/api/openapi.json', (_req, res) => {
    description ??= api.describe();
    res.json(description);
  });
  // Steps of hundreds of clips, before and after.
  app.use('/api/clips/together', express.json({ limit: '32mb' }));
  // A tracked shape has up to 4,000 keys of some 220 characters, a region twelve shapes: 10 MB.
  app.use('/api', express.json({ limit: '16mb' }), limitDepth, api.router);
  app.use('/api', () => {
    throw new HttpError(404, 'not-found', 'There is nothing at this address.');
  });
  if (config.app) servePages(app, config.app);
  app.use((error: unknown, _req: express.Request, _res: express.Response, next: express.NextFunction) => {
    if (isDiskFull(error)) disk.dropBallast();
    next(error);
  });
  app.use(answerErrors);
  return app;
}

/** Security headers. `secure`: browsers treat the address as secure. */
const headers = (secure: boolean) =>
  helmet({
    contentSecurityPolicy: {
      directives: {
        defaultSrc: ["'self'"],
        // WebAssembly, for the kernel in the workers.
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        // The interface library writes its styles into the page.
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'blob:', 'data:'],
        mediaSrc: ["'self'", 'blob:'],
        workerSrc: ["'self'", 'blob:'],
        // A plain address on a local network has no certificate to upgrade to.
        upgradeInsecureRequests: null,
      },
    },
    strictTransportSecurity: false,
    // Browsers accept it only from secure addresses, and log an error otherwise.
    crossOriginOpenerPolicy: secure,
    originAgentCluster: secure,
  });

/** Files named by their content are cached for ever; all others are revalidated each time. */
const NAMED_BY_CONTENT = /[.-][0-9a-f]{8,}\.\w+?(\.br|\.gz)?$/;

function servePages(app: express.Express, folder: string): void {
  const page = join(folder, 'index.html');
  app.use(
    compressedStatic(folder, {
      enableBrotli: true,
      orderPreference: ['br', 'gz'],
      serveStatic: {
        setHeaders: (res, path) =>
          void res.setHeader(
            'Cache-Control',
            NAMED_BY_CONTENT.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache',
          ),
      },
    }),
  );
  app.get('/*path', (req, res) => {
    // Screens have no file extension; a missing file must not be answered with a page.
    if (/\.\w+$/.test(req.path)) throw new HttpError(404, 'not-found', 'There is no such file.');
    res.set('Cache-Control', 'no-cache').sendFile(page, { dotfiles: 'allow' });
  });
}
