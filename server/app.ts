import { readdirSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import express from 'express';
import helmet from 'helmet';
import { Library, type Config } from './config';
import { openDatabase } from './db/connect';
import { Events } from './events';
import { FrameCache } from './frameCache';
import { answerErrors, HttpError, ownPagesOnly } from './http';
import { Runner } from './jobs/runner';
import { makeWorkers } from './jobs/workers';
import type { Parts } from './parts';
import { clipRoutes } from './routes/clips';
import { demoRoutes } from './routes/demo';
import { intakeRoutes } from './routes/intake';
import { jobRoutes } from './routes/jobs';
import { lutRoutes } from './routes/luts';
import { warmExports } from '@inkavo/media/export/exportClip';
import { warmReading } from '@inkavo/media/reading/inThread';
import { readingRoutes } from './routes/reading';
import { cameraRoutes, outingRoutes } from './routes/outings';
import { ClipStore } from './stores/clips';
import { JobStore } from './stores/jobs';
import { LutStore } from './stores/luts';
import { OutingStore } from './stores/outings';

const LOOPBACK = ['127.0.0.1', '::1', 'localhost'];

/** A running server: where it listens, and how it ends. */
export interface Running {
  address: string;
  parts: Parts;
  close(): Promise<void>;
}

/** Files that were being written when the program last ended. */
function sweepHalfFiles(library: Library): void {
  for (const folder of library.folders) {
    for (const name of readdirSync(folder)) if (name.endsWith('.part')) rmSync(join(folder, name), { force: true });
  }
}

/** Opens the library, takes up the work that a crash broke off, and listens. */
export async function startServer(config: Config): Promise<Running> {
  const library = new Library(config.data);
  sweepHalfFiles(library);
  const db = await openDatabase(library.database);
  const [outings, clips, jobs, events] = [new OutingStore(db), new ClipStore(db), new JobStore(db), new Events()];
  const luts = new LutStore(db, library.lut);
  await jobs.recover();
  const workers = makeWorkers({ library, outings, clips, jobs, luts, events, wake: () => runner.wake() });
  const runner: Runner = new Runner(jobs, workers, events);
  const parts: Parts = { config, library, outings, clips, jobs, luts, runner, events, frames: new FrameCache() };

  const server = createServer(application(parts));
  // Longer than any client keeps a connection, so that none is closed while a request is on its way.
  server.keepAliveTimeout = 75_000;
  await new Promise<void>((resolve, reject) => server.once('error', reject).listen(config.port, config.host, resolve));
  runner.wake();
  // Made now, a reading or an export that is asked for need not wait for its thread's program.
  setImmediate(warmReading);
  setImmediate(warmExports);
  return {
    address: addressOf(server, config.host),
    parts,
    async close() {
      events.close();
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await runner.close();
      await db.destroy();
    },
  };
}

function addressOf(server: Server, host: string): string {
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : 0;
  return `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
}

function application(parts: Parts): express.Express {
  const { config, events } = parts;
  const app = express();
  app.disable('x-powered-by');
  app.use(
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
          // A plain address on one's own network has no certificate to upgrade to.
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.use(ownPagesOnly(LOOPBACK.includes(config.host)));
  app.use('/api', intakeRoutes(parts));
  app.use('/api', express.json({ limit: '4mb' }));
  app.get('/api/events', events.handle);
  app.use('/api/outings', outingRoutes(parts));
  app.use('/api/cameras', cameraRoutes(parts));
  app.use('/api/clips', clipRoutes(parts));
  app.use('/api/clips', readingRoutes(parts));
  app.use('/api/luts', lutRoutes(parts));
  app.use('/api', jobRoutes(parts));
  app.use('/api', demoRoutes(parts));
  app.use('/api', () => {
    throw new HttpError(404, 'There is nothing at this address.');
  });
  if (config.app) {
    const page = join(config.app, 'index.html');
    app.use(
      express.static(config.app, {
        maxAge: '1h',
        setHeaders: (res, path) => path === page && res.set('Cache-Control', 'no-cache'),
      }),
    );
    app.get('/*path', (_req, res) => res.set('Cache-Control', 'no-cache').sendFile(page, { dotfiles: 'allow' }));
  }
  app.use(answerErrors);
  return app;
}
