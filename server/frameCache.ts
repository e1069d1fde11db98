import { restFrame, type FramePart, type Source } from '@inkavo/media/frames/rest';
import type { PlanarPicture } from '@inkavo/core/program/cpu/planar';

/** Most bytes of frames that are kept. */
const LIMIT = 256 << 20;

/** Keeps the frames at rest that were asked for last, so that going back to one costs nothing. */
export class FrameCache {
  private readonly kept = new Map<string, PlanarPicture>();
  private bytes = 0;

  async get(
    hash: string,
    source: Source,
    frame: number,
    width: number,
    signal?: AbortSignal,
    part?: FramePart,
  ): Promise<PlanarPicture> {
    const key = [hash, frame, width, ...(part ? Object.values(part) : [])].join('/');
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key);
      this.kept.set(key, known);
      return known;
    }
    const picture = await restFrame(source, frame, width, signal, part);
    this.kept.set(key, picture);
    this.bytes += picture.y.buffer.byteLength;
    for (const [oldest, { y }] of this.kept) {
      if (this.bytes <= LIMIT || oldest === key) break;
      this.kept.delete(oldest);
      this.bytes -= y.buffer.byteLength;
    }
    return picture;
  }
}
