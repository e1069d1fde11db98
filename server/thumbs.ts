import { createHash } from 'node:crypto';
import { readdirSync, rmSync, statSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { PROBE_VERSION, secondsOf } from '@inkavo/core/model/facts';
import { joinSteps, type Step } from '@inkavo/core/model/grade';
import type { Clip } from '@inkavo/core/model/outing';
import type { Library } from './config';
import { PRIORITY, type Frames } from './frames';
import { keepFile } from './keepFile';
import type { ClipStore } from './stores/clips';
import type { OutingStore } from './stores/outings';
import type { ShelfStore } from './stores/shelf';

/** Incremented when thumbnails are drawn differently; stored ones are then discarded. */
const VERSION = 2;
/**
 * Disk space in bytes for thumbnails, and for the small pictures that they are drawn from: those of some two thousand
 * clips (0.02 and 0.17 MB each, the mean of the demo's).
 */
const KEPT_BYTES = 400 << 20;
/** Width of a tile's picture, which is made in advance. */
export const TILE_WIDTH = 480;

/** Thumbnails of graded clips, stored on disk by what they depend on, and made in advance after a change. */
export class Thumbs {
  /** Thumbnails being made in advance, by outing. */
  private readonly ahead = new Map<string, AbortController>();
  private readonly closing = new AbortController();

  constructor(
    private readonly library: Library,
    private readonly stores: { clips: ClipStore; outings: OutingStore; shelf: ShelfStore },
    private readonly frames: Frames,
  ) {}

  /** A JPEG of a clip's representative frame, as recorded or graded. Rejects when the signal fires. */
  async of(
    clip: Clip,
    { graded, width }: { graded: boolean; width: number },
    signal?: AbortSignal,
    priority: number = PRIORITY.thumb,
  ): Promise<Buffer> {
    const { clips, outings, shelf } = this.stores;
    let steps: Step[] = [];
    if (graded) {
      const [camera, outing] = [await outings.camera(clip.cameraId), await outings.get(clip.outingId)];
      steps = joinSteps(camera.steps, clip.steps, outing.steps, clip.overrides);
    }
    const frame = clip.referenceFrame;
    const path = this.pathFor([VERSION, PROBE_VERSION, clip.hash, frame, width, steps]);
    try {
      return await readFile(path);
    } catch {
      // It does not exist yet.
    }
    const source = await clips.source(clip, this.library.original(clip.hash));
    const grade = { steps, luts: await shelf.textsFor(steps), seconds: secondsOf(clip.facts, frame) };
    const jpeg = await this.frames.thumb({ hash: clip.hash, source, frame, width }, grade, signal, priority);
    // The response does not wait for the disk; if that is full, the thumbnail is only recomputed later.
    void keepFile(path, jpeg).catch(() => undefined);
    return jpeg;
  }

  private pathFor = (parts: unknown[]): string =>
    this.library.thumb(createHash('sha256').update(JSON.stringify(parts)).digest('hex'));

  /** Draws the tiles of a file's clips at low priority, and stores the pictures that they are drawn from. */
  drawAhead(hash: string): void {
    void this.stores.clips
      .ofFile(hash)
      .then((ids) => this.draw(ids, this.closing.signal))
      .catch((error: unknown) => console.error(error));
  }

  /**
   * Makes the thumbnails of an outing's clips one after the other, at low priority. Calling it again for the same
   * outing restarts with the current state.
   */
  makeAhead(outingId: string): void {
    this.ahead.get(outingId)?.abort();
    const controller = new AbortController();
    this.ahead.set(outingId, controller);
    const { signal } = controller;
    const work = async (): Promise<void> => {
      const clips = await this.stores.clips.ofOuting(outingId);
      await this.draw(
        clips.map((c) => c.id),
        signal,
      );
    };
    work()
      .catch((error: unknown) => console.error(error))
      .finally(() => this.ahead.get(outingId) === controller && this.ahead.delete(outingId));
  }

  private async draw(ids: readonly string[], signal: AbortSignal): Promise<void> {
    for (const id of ids) {
      if (signal.aborted) return;
      try {
        const clip = await this.stores.clips.get(id);
        await this.of(clip, { graded: true, width: TILE_WIDTH }, signal, PRIORITY.ahead);
      } catch {
        // Removed meanwhile, or undecodable: reported when it is viewed.
      }
    }
  }

  /** Deletes the oldest thumbnails beyond the limit. */
  sweep(): void {
    const files = readdirSync(this.library.thumbs).map((name) => {
      const path = join(this.library.thumbs, name);
      const { size, mtimeMs } = statSync(path);
      return { path, size, mtimeMs };
    });
    let left = files.reduce((sum, f) => sum + f.size, 0);
    for (const { path, size } of files.sort((a, b) => a.mtimeMs - b.mtimeMs)) {
      if (left <= KEPT_BYTES) return;
      rmSync(path, { force: true });
      left -= size;
    }
  }

  close(): void {
    this.closing.abort();
    for (const controller of this.ahead.values()) controller.abort();
  }
}
