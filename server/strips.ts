import { existsSync } from 'node:fs';
import { makeStrip } from '@inkavo/media/frames/strip';
import type { Library } from './config';
import { SharedWork } from './sharedWork';
import type { ClipStore } from './stores/clips';

/** Strips of frames under the picture: made with the proxy, or before, when somebody looks at a clip that has none. */
export class Strips {
  private readonly work = new SharedWork();

  constructor(
    private readonly library: Library,
    private readonly clips: ClipStore,
  ) {}

  /** Path of a file's strip; it is there when this resolves. */
  async of(hash: string, signal?: AbortSignal): Promise<string> {
    const path = this.library.strip(hash);
    if (existsSync(path)) return path;
    await this.work.share(
      hash,
      async (until) => {
        const source = await this.clips.source({ hash }, this.library.original(hash));
        const proxy = this.library.proxy(hash);
        await makeStrip(source, path, { signal: until, ...(existsSync(proxy) ? { proxy } : {}) });
      },
      signal,
    );
    return path;
  }
}
