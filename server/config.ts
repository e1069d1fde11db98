import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import { PROXY_VERSION } from '@inkavo/core/colour/proxyCodes';
import { partsOf } from '@inkavo/media/frames/makeProxy';

/** Where the server keeps things and on which address it listens. */
export interface Config {
  host: string;
  port: number;
  /** Where other devices are let in, once a person says so. Default: the port after {@link port}; 0: any that is free. */
  sharePort?: number;
  /** Folder with the database, originals, proxies, uploads and exports. */
  data: string;
  /** The memory card's folder; a missing one means that no card is in. */
  card: string;
  /** A list of mounts in the form of /proc/self/mounts, which it is by default; removable disks are found in it. */
  mounts?: string;
  /** The built application; undefined serves the API alone. */
  app: string | undefined;
  /** Bytes of the disk that work leaves free for the database. Default: {@link RESERVE}. */
  reserve?: number;
  /** Opens the demo in a library that never held an outing. */
  demo?: boolean;
  /** The program that renders the demo's footage onto the card; undefined where there is none. */
  renderer?: string;
  /** How often a stream of events that has nothing to tell says so, milliseconds. Default: {@link BEAT_MS}. */
  beatMs?: number;
  /** Checks every answer against its description, for tests. */
  strict?: boolean;
}

/** The name of a proxy's file. */
export const proxyName = (hash: string): string => `${hash}.${PROXY_VERSION}.mp4`;

/** Addresses that only this machine itself reaches. */
export const LOOPBACK = ['127.0.0.1', '::1', 'localhost'];

/** Room for edits while a disk is being cleared. Chosen by judgement: far more than the database and its log grow by. */
export const RESERVE = 256 << 20;

/** The folder of the repository; the server runs from its source in tests, and from `dist/` otherwise. */
const root = resolve(__dirname, '..');

/** Reads the configuration from the environment. */
export const configFromEnv = (env: NodeJS.ProcessEnv = process.env): Config => ({
  host: env.INKAVO_HOST ?? '127.0.0.1',
  port: Number(env.INKAVO_PORT ?? 4680),
  sharePort: env.INKAVO_SHARE_PORT === undefined ? undefined : Number(env.INKAVO_SHARE_PORT),
  data: resolve(env.INKAVO_DATA ?? join(root, 'data')),
  card: resolve(env.INKAVO_CARD ?? join(root, 'demo/footage/card')),
  mounts: env.INKAVO_MOUNTS,
  app: env.INKAVO_APP === 'none' ? undefined : resolve(env.INKAVO_APP ?? join(root, 'app/dist')),
  reserve: env.INKAVO_RESERVE ? Number(env.INKAVO_RESERVE) : RESERVE,
  demo: env.INKAVO_DEMO === '1',
  renderer: existsSync(join(root, 'dist/demo.cjs')) ? join(root, 'dist/demo.cjs') : undefined,
  strict: env.INKAVO_STRICT === '1',
});

/** Paths inside the data folder. */
export class Library {
  readonly database: string;
  /** Private key and certificate for other devices. */
  readonly certificate: string;
  readonly uploads: string;
  readonly exports: string;
  /** For what is of use only while it is worked on. */
  readonly temporary: string;
  readonly originals: string;
  private readonly proxies: string;
  private readonly luts: string;
  readonly thumbs: string;

  constructor(data: string) {
    this.database = join(data, 'inkavo.db');
    this.certificate = join(data, 'certificate.pem');
    this.uploads = join(data, 'uploads');
    this.exports = join(data, 'exports');
    this.temporary = join(data, 'temporary');
    this.originals = join(data, 'originals');
    this.proxies = join(data, 'proxies');
    this.luts = join(data, 'luts');
    this.thumbs = join(data, 'thumbs');
    for (const folder of [...this.folders, this.temporary]) mkdirSync(folder, { recursive: true });
  }

  private get folders(): string[] {
    return [this.uploads, this.exports, this.originals, this.proxies, this.luts, this.thumbs];
  }
  /** An original, stored by its content hash. */
  original = (hash: string): string => join(this.originals, hash);
  /** A file on its way in, before its hash is known. */
  incoming = (jobId: string): string => join(this.originals, `${jobId}.part`);
  proxy = (hash: string): string => join(this.proxies, proxyName(hash));
  /** The chart of `core/colour/proxyCodes.ts`. */
  get chart(): string {
    return join(this.proxies, proxyName('chart'));
  }
  strip = (hash: string): string => join(this.proxies, `${hash}.jpg`);
  thumb = (digest: string): string => join(this.thumbs, `${digest}.jpg`);
  /** A small picture that thumbnails are drawn from. */
  picture = (digest: string): string => join(this.thumbs, `${digest}.picture`);
  lut = (id: string): string => join(this.luts, id);
  export = (name: string): string => join(this.exports, name);

  /** Whether these are parts of a proxy that is whole. */
  private isLeftOver = (name: string): boolean =>
    name.endsWith('.parts') && existsSync(join(this.proxies, basename(name, '.parts')));

  /** Removes an original with all that was made from it. */
  removeMedia(hash: string): void {
    this.removeProxy(hash);
    rmSync(this.original(hash), { force: true });
  }

  /** Removes a proxy, what was made of one, and the strip. */
  removeProxy(hash: string): void {
    for (const path of [this.proxy(hash), this.strip(hash)]) rmSync(path, { force: true });
    this.removeParts(hash);
  }
  removeParts = (hash: string): void => rmSync(partsOf(this.proxy(hash)), { recursive: true, force: true });

  /** Removes an upload with the note that the upload store keeps beside it. */
  removeUpload(path: string): void {
    rmSync(path, { force: true });
    rmSync(`${path}.json`, { force: true });
  }

  /** Removes what was being written when the program last ended, and proxies of an earlier version. Only whoever holds the folder's lock may. */
  sweep(): void {
    for (const folder of this.folders)
      for (const name of readdirSync(folder)) if (name.endsWith('.part')) rmSync(join(folder, name), { force: true });
    for (const name of readdirSync(this.proxies, { recursive: true, encoding: 'utf8' }))
      if (name.endsWith('.part')) rmSync(join(this.proxies, name), { force: true });
    for (const name of readdirSync(this.proxies))
      if (/\.mp4(\.parts)?$/.test(name) && (!name.includes(proxyName('')) || this.isLeftOver(name)))
        rmSync(join(this.proxies, name), { recursive: true, force: true });
    for (const name of readdirSync(this.temporary))
      rmSync(join(this.temporary, name), { recursive: true, force: true });
  }
}
