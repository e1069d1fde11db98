import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';

/** Where the server keeps things and on which address it listens. */
export interface Config {
  host: string;
  port: number;
  /** Folder with the database, originals, proxies, uploads and exports. */
  data: string;
  /** The memory card's folder; a missing one means that no card is in. */
  card: string;
  /** The built application; undefined serves the API alone. */
  app: string | undefined;
}

const root = resolve(__dirname, '..');

/** Reads the configuration from the environment. */
export const configFromEnv = (env: NodeJS.ProcessEnv = process.env): Config => ({
  host: env.INKAVO_HOST ?? '127.0.0.1',
  port: Number(env.INKAVO_PORT ?? 4680),
  data: resolve(env.INKAVO_DATA ?? join(root, 'data')),
  card: resolve(env.INKAVO_CARD ?? join(root, 'demo/footage/card')),
  app: env.INKAVO_APP === 'none' ? undefined : resolve(env.INKAVO_APP ?? join(root, 'app/dist')),
});

/** Paths inside the data folder. */
export class Library {
  readonly database: string;
  readonly uploads: string;
  readonly exports: string;
  private readonly media: string;
  private readonly proxies: string;
  private readonly luts: string;

  constructor(data: string) {
    this.database = join(data, 'inkavo.db');
    this.uploads = join(data, 'uploads');
    this.exports = join(data, 'exports');
    this.media = join(data, 'originals');
    this.proxies = join(data, 'proxies');
    this.luts = join(data, 'luts');
    for (const folder of this.folders) mkdirSync(folder, { recursive: true });
  }

  get folders(): string[] {
    return [this.uploads, this.exports, this.media, this.proxies, this.luts];
  }
  /** An original, stored by its content hash. */
  original = (hash: string): string => join(this.media, hash);
  /** A file on its way in, before its hash is known. */
  incoming = (jobId: string): string => join(this.media, `${jobId}.part`);
  proxy = (hash: string): string => join(this.proxies, `${hash}.mp4`);
  strip = (hash: string): string => join(this.proxies, `${hash}.jpg`);
  lut = (id: string): string => join(this.luts, id);
  export = (name: string): string => join(this.exports, name);
}
