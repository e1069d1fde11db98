import { readdirSync, rmSync } from 'node:fs';
import type { Library } from '../config';
import type { ClipStore } from '../stores/clips';
import { KEPT_SECONDS, type RemovedStore } from '../stores/removed';

const EVERY_MS = 3_600_000;

/** Permanently deletes what was removed long enough ago: rows first, then unreferenced files. */
export class Purge {
  private timer: ReturnType<typeof setInterval> | undefined;

  constructor(
    private readonly library: Library,
    private readonly removed: RemovedStore,
    private readonly clips: ClipStore,
  ) {}

  /** Runs now and every hour. Files left without rows by a crash are deleted now. */
  async start(): Promise<void> {
    await this.run(Date.now() / 1000 - KEPT_SECONDS);
    await this.sweep();
    this.timer = setInterval(() => {
      this.run(Date.now() / 1000 - KEPT_SECONDS).catch((error: unknown) => console.error(error));
    }, EVERY_MS);
    this.timer.unref();
  }

  /** Deletes what was removed before a time, seconds since 1970. */
  async run(before: number): Promise<void> {
    const { hashes, files, luts } = await this.removed.purge(before);
    for (const hash of hashes) this.library.removeMedia(hash);
    for (const name of files) rmSync(this.library.export(name), { force: true });
    for (const id of luts) rmSync(this.library.lut(id), { force: true });
  }

  /** Originals without a row are unreachable, and an interrupted import copies its file again. */
  private async sweep(): Promise<void> {
    const known = new Set(await this.clips.hashes());
    for (const name of readdirSync(this.library.originals))
      if (/^[0-9a-f]{64}$/.test(name) && !known.has(name)) this.library.removeMedia(name);
  }

  close(): void {
    clearInterval(this.timer);
  }
}
