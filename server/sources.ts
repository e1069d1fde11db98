import { createHash, randomUUID } from 'node:crypto';
import { existsSync, lstatSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { lstat, readdir, readFile } from 'node:fs/promises';
import { basename, dirname, isAbsolute, join, resolve, sep } from 'node:path';
import type { Knex } from 'knex';
import { LRUCache } from 'lru-cache';
import PQueue from 'p-queue';
import { isClipName } from '@inkavo/core/intake/clipNames';
import { detectCameras } from '@inkavo/core/intake/detectCameras';
import type { CardFile, Source, SourceContent } from '@inkavo/core/model/source';
import { MediaError } from '@inkavo/media/codec';
import { readHeader } from '@inkavo/media/codec/header';
import type { Config } from './config';
import type { Events } from './events';
import { badRequest, HttpError, notFound } from './http/problems';

/** Folders in which systems mount removable media. */
const REMOVABLE = /^\/(media|run\/media|Volumes)\//;
/** Polling interval of the list of mounts: the system does not notify of changes. */
const LOOK_MS = 3000;
/** Reading a header takes a process a tenth of a second; two at a time leave capacity for pictures. */
const GLANCES_AT_ONCE = 2;
const HEADERS_KEPT = 5000;
/** Maximum number of files searched in an allowed folder. */
const MOST_FILES = 20_000;

interface FolderRow {
  id: string;
  path: string;
  writable: boolean | number;
}

/** Files of a folder, recursively, with their sizes, sorted by path. Links and hidden files are skipped. */
async function filesBelow(root: string): Promise<{ path: string; bytes: number; changed: number }[]> {
  if (!existsSync(root)) return [];
  const paths = (await readdir(root, { recursive: true, encoding: 'utf8' }))
    .filter((path) => !path.split(sep).some((part) => part.startsWith('.')))
    .slice(0, MOST_FILES)
    .sort();
  const found = await Promise.all(paths.map((path) => lstat(join(root, path)).catch(() => undefined)));
  return paths.flatMap((path, i) => {
    const file = found[i];
    return file?.isFile() ? [{ path, bytes: file.size, changed: file.mtimeMs }] : [];
  });
}

/** Mount points of removable disks, from a list in the form of /proc/self/mounts. */
export function removableMounts(list: string): string[] {
  return (
    list
      .split('\n')
      .map((line) => line.split(' ')[1] ?? '')
      // Spaces and similar characters are escaped in octal.
      .map((path) =>
        path.replace(/\\([0-7]{3})/g, (_all, octal: string) => String.fromCharCode(Number.parseInt(octal, 8))),
      )
      .filter((path) => REMOVABLE.test(path))
  );
}

/** Import sources on the server's machine: the card's folder, removable disks, allowed folders. */
export class Sources {
  private readonly looks = new PQueue({ concurrency: GLANCES_AT_ONCE });
  private readonly known = new LRUCache<string, Pick<CardFile, 'header' | 'problem'>>({ max: HEADERS_KEPT });
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly config: Pick<Config, 'card' | 'mounts'>,
    private readonly db: Knex,
  ) {}

  /** All sources, available ones first. */
  async list(): Promise<Source[]> {
    const folders = await this.db<FolderRow>('folders').orderBy('path');
    const all: Source[] = [
      {
        id: 'card',
        kind: 'card',
        name: 'Card',
        path: this.config.card,
        present: existsSync(this.config.card),
        writable: false,
      },
      ...this.mounts().map((path) => ({
        id: createHash('sha256').update(path).digest('hex').slice(0, 16),
        kind: 'disk' as const,
        name: basename(path),
        path,
        present: true,
        writable: false,
      })),
      ...folders.map(({ id, path, writable }) => ({
        id,
        kind: 'folder' as const,
        name: basename(path),
        path,
        present: existsSync(path),
        writable: Boolean(writable),
      })),
    ];
    return all.sort((a, b) => Number(b.present) - Number(a.present));
  }

  /** Throws a 404 {@link HttpError} if it is unknown or unavailable. */
  async get(id: string): Promise<Source> {
    const source = (await this.list()).find((s) => s.id === id);
    if (!source) throw notFound('place');
    if (!source.present) throw new HttpError(404, 'not-found', `${source.name} is not there: was it taken out?`);
    return source;
  }

  /** Allows a folder. Throws a 400 {@link HttpError} if it is not a folder or not an absolute path. */
  async allow(path: string): Promise<Source> {
    if (!isAbsolute(path)) throw badRequest('Write the folder’s whole path, from the root of the server’s disk.');
    const whole = resolve(path);
    if (!statSync(whole, { throwIfNoEntry: false })?.isDirectory())
      throw badRequest(`There is no folder "${whole}" on the server’s machine.`);
    const known = await this.db<FolderRow>('folders').where({ path: whole }).first();
    const id = known?.id ?? randomUUID();
    if (!known) await this.db('folders').insert({ id, path: whole });
    return this.get(id);
  }

  /** Sets whether finished files may be copied into a folder. Throws a 404 {@link HttpError} for other sources. */
  async setWritable(id: string, writable: boolean): Promise<Source> {
    if ((await this.db('folders').where({ id }).update({ writable })) === 0) throw notFound('folder');
    return (await this.list()).find((s) => s.id === id)!;
  }

  /**
   * A folder into which finished files may currently be copied. Otherwise throws an {@link HttpError} with a message.
   */
  async target(id: string): Promise<Source> {
    const source = await this.get(id);
    if (!source.writable) throw badRequest(`Files may not be put into ${source.name}: allow it for its folder first.`);
    return source;
  }

  forget = async (id: string): Promise<void> => {
    if ((await this.db('folders').where({ id }).delete()) === 0) throw notFound('folder');
  };

  /** The video files of a source, without opening them. */
  async files(source: Source): Promise<Omit<CardFile, 'header' | 'problem'>[]> {
    return (await this.videos(source)).videos.map(({ file }) => file);
  }

  /**
   * The absolute path of a video file of a source. Throws a 400 {@link HttpError} for anything else, including links
   * that lead outside.
   */
  pathOf(source: Source, path: string): string {
    const whole = resolve(source.path, path);
    const found = isClipName(whole) ? lstatSync(whole, { throwIfNoEntry: false }) : undefined;
    const within = found?.isFile() && realpathSync(whole).startsWith(`${realpathSync(source.path)}${sep}`);
    if (!within) throw notThere(source, path);
    return whole;
  }

  private async videos(source: Source) {
    const all = await filesBelow(source.path);
    const videos = all.filter(({ path }) => isClipName(path));
    const list = videos.map(({ path, bytes, changed }) => {
      const folders = dirname(path)
        .split(sep)
        .filter((f) => f !== '.');
      const file = {
        path: path.split(sep).join('/'),
        folders,
        folder: folders.at(-1) ?? '',
        name: basename(path),
        bytes,
      };
      return { file, changed };
    });
    return { videos: list, leftAlone: all.length - videos.length };
  }

  /** Contents of a source: cameras with their recordings. Previously read headers are cached. */
  async content(id: string, signal?: AbortSignal): Promise<Omit<SourceContent, 'freeBytes'>> {
    const source = await this.get(id);
    const { videos, leftAlone } = await this.videos(source);
    const files = await Promise.all(
      videos.map(async ({ file, changed }): Promise<CardFile> => {
        const path = join(source.path, file.path);
        const key = `${path}/${file.bytes}/${changed}`;
        const known = this.known.get(key);
        if (known) return { ...file, ...known };
        const found = await this.looks.add(() => lookAt(path, signal), { signal });
        this.known.set(key, found);
        return { ...file, ...found };
      }),
    );
    return { source, cameras: detectCameras(files), leftAlone };
  }

  /** The small files of a source whose names have this ending, with their contents. */
  async texts(ending: string, maxBytes: number): Promise<{ name: string; text: string }[]> {
    const present = (await this.list()).filter((s) => s.present && s.kind !== 'folder');
    const lists = await Promise.all(
      present.map(async ({ path: root }) => {
        const small = (await filesBelow(root)).filter(({ path, bytes }) => path.endsWith(ending) && bytes <= maxBytes);
        return Promise.all(
          small.map(async ({ path }) => ({ name: basename(path), text: await readFile(join(root, path), 'utf8') })),
        );
      }),
    );
    return lists.flat();
  }

  /** Notifies pages when a disk is inserted or removed. */
  watch(events: Events): void {
    let seen = this.places();
    this.timer = setInterval(() => {
      const now = this.places();
      if (now === seen) return;
      seen = now;
      events.send({ type: 'sources' });
    }, LOOK_MS);
    this.timer.unref();
  }

  close = (): void => clearInterval(this.timer);

  private places = (): string => [existsSync(this.config.card), ...this.mounts()].join('\n');

  private mounts(): string[] {
    try {
      return removableMounts(readFileSync(this.config.mounts ?? '/proc/self/mounts', 'utf8'));
    } catch {
      // On other systems there are only the card's folder and allowed folders.
      return [];
    }
  }
}

export const notThere = (source: Source, path: string): HttpError =>
  badRequest(`"${path}" is not ${source.kind === 'card' ? 'on the card' : `in ${source.name}`}.`);

async function lookAt(path: string, signal?: AbortSignal): Promise<Pick<CardFile, 'header' | 'problem'>> {
  try {
    return { header: await readHeader(path, signal), problem: null };
  } catch (error) {
    if (signal?.aborted || !(error instanceof MediaError)) throw error;
    return { header: null, problem: error.message };
  }
}
