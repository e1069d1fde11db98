import { existsSync } from 'node:fs';
import { LRUCache } from 'lru-cache';
import { makeStrip, stripOf } from '@inkavo/media/frames/strip';
import type { Source } from '@inkavo/media/frames/rest';
import type { Library } from './config';
import { SharedWork } from './sharedWork';
import type { ClipStore } from './stores/clips';

/** Filmstrips: made with the proxy, or earlier, when a clip without one is viewed. */
export class Strips {
  private readonly work = new SharedWork();
  /** Cached strips of parts of clips: a few kilobytes each. */
  private readonly parts = new LRUCache<string, Buffer>({ max: 100 });

  constructor(
    private readonly library: Library,
    private readonly clips: ClipStore,
  ) {}

  /** Path of a file's strip; it exists when this resolves. */
  async of(hash: string, signal?: AbortSignal): Promise<string> {
    const path = this.library.strip(hash);
    if (existsSync(path)) return path;
    await this.work.share(
      hash,
      async (until) => {
        const { source, proxy } = await this.filesOf(hash);
        await makeStrip(source, path, { signal: until, proxy });
      },
      signal,
    );
    return path;
  }

  /** The strip of some frames of a file, inclusive. */
  part = (hash: string, first: number, last: number, signal?: AbortSignal): Promise<Buffer> =>
    this.work.once(
      this.parts,
      `${hash} ${first}-${last}`,
      async (until) => {
        const { source, proxy } = await this.filesOf(hash);
        return stripOf(source, { signal: until, proxy, first, last });
      },
      signal,
    );

  private async filesOf(hash: string): Promise<{ source: Source; proxy?: string }> {
    const proxy = this.library.proxy(hash);
    const source = await this.clips.source({ hash }, this.library.original(hash));
    return { source, ...(existsSync(proxy) ? { proxy } : {}) };
  }
}
