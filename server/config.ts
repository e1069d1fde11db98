import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import { PROXY_VERSION } from '@inkavo/core/colour/proxyCodes';
import { partsOf } from '@inkavo/media/frames/makeProxy';

/** Paths and addresses of the server. */
export interface Config {
  host: string;
  port: number;
  /** Port for other devices, once sharing is switched on. Default: the port after {@link port}; 0: any free one. */
  sharePort?: number;
  /** Folder with the database, originals, proxies, uploads and exports. */
  data: string;
  /** The memory card's folder; missing: no card is inserted. */
  card: string;
  /** A list of mounts in the form of /proc/self/mounts, its default, for finding removable disks. */
  mounts?: string;
  /** The built application; undefined: API only. */
  app: string | undefined;
  /** Disk space in bytes reserved for the database. Default: {@link RESERVE}. */
  reserve?: number;
  /** Opens the demo in a library that never contained an outing. */
  demo?: boolean;
  /** The program that renders the demo's footage onto the card; undefined if there is none. */
  renderer?: string;
  /** Interval in milliseconds of heartbeats in an event stream. Default: {@link BEAT_MS}. */
  beatMs?: number;
  /** Validates every response against its description, for tests. */
  strict?: boolean;
}

/** File name of a proxy. */
export const proxyName = (hash: string): string => `${hash}.${PROXY_VERSION}.mp4`;
/** File name of a filmstrip. */
export const stripName = (hash: string): string => `${hash}.jpg`;

/** Addresses reachable only from this machine. */
export const LOOPBACK = ['127.0.0.1', '::1', 'localhost'];

/** Space for edits while a disk is being cleared. By judgement: far more than the database and its log grow. */
export const RESERVE = 256 << 20;

/** The folder of the repository; the server runs from its sources in tests, otherwise from `dist/`. */
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
  /** For temporary files. */
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
  /** An original, named by its content hash. */
  original = (hash: string): string => join(this.originals, hash);
  /** A file being received, before its hash is known. */
  incoming = (jobId: string): string => join(this.originals, `${jobId}.part`);
  proxy = (hash: string): string => join(this.proxies, proxyName(hash));
  /** The chart of `core/colour/proxyCodes.ts`. */
  get chart(): string {
    return join(this.proxies, proxyName('chart'));
  }
  strip = (hash: string): string => join(this.proxies, stripName(hash));
  thumb = (digest: string): string => join(this.thumbs, `${digest}.jpg`);
  /** A small picture from which thumbnails are drawn. */
  picture = (digest: string): string => join(this.thumbs, `${digest}.picture`);
  lut = (id: string): string => join(this.luts, id);
  export = (name: string): string => join(this.exports, name);

  /** Whether these are leftover parts of a complete proxy. */
  private isLeftOver = (name: string): boolean =>
    name.endsWith('.parts') && existsSync(join(this.proxies, basename(name, '.parts')));

  /** Removes an original with everything derived from it. */
  removeMedia(hash: string): void {
    this.removeProxy(hash);
    rmSync(this.original(hash), { force: true });
  }

  /** Removes a proxy, everything derived from it, and the strip. */
  removeProxy(hash: string): void {
    for (const path of [this.proxy(hash), this.strip(hash)]) rmSync(path, { force: true });
    this.removeParts(hash);
  }
  removeParts = (hash: string): void => rmSync(partsOf(this.proxy(hash)), { recursive: true, force: true });

  /** Removes an upload with the upload store's metadata. */
  removeUpload(path: string): void {
    rmSync(path, { force: true });
    rmSync(`${path}.json`, { force: true });
  }

  /**
   * Removes files that were being written when the program last ended, and proxies of an earlier version. Requires the
   * folder's lock.
   */
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
