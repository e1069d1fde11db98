import { createHash } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import PQueue from 'p-queue';
import { PROBE_VERSION, secondsOf } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import type { NoiseAmounts } from '@inkavo/core/noise/reduce';
import type { PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { previewOf } from '@inkavo/media/frames/still';
import { levelStack, noiseTask, quicklyDecoded } from '@inkavo/media/frames/noise';
import { decodeFrame, restFrame, restOf, type FramePart, type Source } from '@inkavo/media/frames/rest';
import type { Around } from '@inkavo/media/reading/tasks';
import { inThread } from '@inkavo/media/threads/pool';
import type { PictureFiles } from './pictureFiles';
import { SharedWork } from './sharedWork';

/** Cache sizes in bytes for still frames, denoised whole frames, thumbnails and cells. */
const FRAME_BYTES = 128 << 20;
const REDUCED_BYTES = 128 << 20;
const THUMB_BYTES = 32 << 20;
const CELLS_BYTES = 16 << 20;
/** Concurrent decoders: an 8K frame takes 0.9 GB (see MEDIA_LIMITS), and the codec itself uses several cores. */
const AT_ONCE = 2;
/** Width in pixels for clips that are not imported. */
const PREVIEW_WIDTH = 320;
/** Priorities: viewed frames before thumbnails, visible thumbnails before those made in advance. */
export const PRIORITY = { frame: 1, thumb: 0, ahead: -1 } as const;

/** Source of a picture. */
export interface Wanted {
  hash: string;
  source: Source;
  frame: number;
  width: number;
  part?: FramePart;
  /** Noise reduction before anything else. */
  noise?: NoiseAmounts;
}

/** Still frames and thumbnails: queued, each made once, recent ones cached. */
export class Frames {
  private readonly frames = new LRUCache<string, PlanarPicture>({
    maxSize: FRAME_BYTES,
    sizeCalculation: (picture) => picture.y.buffer.byteLength,
  });
  private readonly reduced = new LRUCache<string, PlanarPicture>({
    maxSize: REDUCED_BYTES,
    sizeCalculation: (picture) => picture.y.buffer.byteLength,
  });
  private readonly thumbs = new LRUCache<string, Buffer>({
    maxSize: THUMB_BYTES,
    sizeCalculation: (jpeg) => jpeg.length,
  });
  private readonly averaged = new LRUCache<string, Float32Array>({
    maxSize: CELLS_BYTES,
    sizeCalculation: (cells) => cells.byteLength,
  });
  private readonly work = new SharedWork();
  private readonly decoders = new PQueue({ concurrency: AT_ONCE });
  private readonly drawing = new PQueue({ concurrency: AT_ONCE });

  /** `pictures`: storage of small pictures, so that a change of steps needs no decoding. */
  constructor(private readonly pictures: PictureFiles) {}

  /** A still frame. Rejects when the signal fires; the work is cancelled when nobody waits for it any more. */
  frame(wanted: Wanted, signal?: AbortSignal): Promise<PlanarPicture> {
    return this.decoded(wanted, PRIORITY.frame, signal);
  }

  /** A still frame compressed for a network: samples packed by `packSamples`, then gzip. */
  packed({ y, format }: PlanarPicture, signal?: AbortSignal): Promise<Uint8Array> {
    return inThread({ kind: 'pack', samples: new Uint16Array(y.buffer), width: format.width }, { signal });
  }

  /** R'G'B' of a frame's cells, averaged over the file's own pixels as for an export. */
  cells(wanted: Omit<Wanted, 'width' | 'part'>, signal?: AbortSignal): Promise<Float32Array> {
    const { source, frame, noise } = wanted;
    return this.work.once(
      this.averaged,
      `cells/${wholeKeyOf(wanted)}`,
      async (until) => {
        const picture = noise
          ? await this.whole(wanted, noise, until)
          : await this.decoders.add(() => decodeFrame(source, frame, until), { priority: PRIORITY.frame });
        // A large frame is transferred rather than copied, unless it is cached.
        const gives = noise ? [] : [picture.y.buffer as ArrayBuffer];
        return inThread({ kind: 'cells', picture }, { signal: until, gives });
      },
      signal,
    );
  }

  /** A denoised whole frame: the source of the picture, its magnified part and its cells. */
  private whole(
    wanted: Omit<Wanted, 'width' | 'part'>,
    noise: NoiseAmounts,
    signal: AbortSignal,
  ): Promise<PlanarPicture> {
    return this.work.once(
      this.reduced,
      wholeKeyOf(wanted),
      async (until) => {
        const { source, frame } = wanted;
        const task = await this.decoders.add(() => noiseTask(source, frame, noise, until), {
          priority: PRIORITY.frame,
        });
        return inThread(task, { signal: until, gives: [task.frames] });
      },
      signal,
    );
  }

  /** A frame with its neighbours, for measuring noise; `near`: another one close by, if quicker to decode. */
  async around(source: Source, frame: number, near: boolean, signal: AbortSignal): Promise<Around> {
    return this.decoders.add(
      async () => {
        const at = near ? await quicklyDecoded(source, frame, signal) : frame;
        return { stack: await levelStack(source, at, signal), seconds: secondsOf(source.facts, at) };
      },
      { priority: PRIORITY.frame, signal },
    );
  }

  /** A JPEG of a graded frame. `luts`: text of the tables by id. */
  async thumb(
    wanted: Wanted,
    { steps, luts, seconds }: { steps: Step[]; luts: Record<string, string>; seconds: number },
    signal?: AbortSignal,
    priority: number = PRIORITY.thumb,
  ): Promise<Buffer> {
    const digest = createHash('sha256').update(JSON.stringify(steps)).digest('hex');
    return this.work.once(
      this.thumbs,
      `${keyOf(wanted)}/${digest}`,
      async (until) => {
        const picture = await this.small(wanted, priority, until);
        return this.drawing.add(
          async () =>
            Buffer.from(await inThread({ kind: 'picture', picture, steps, luts, seconds }, { signal: until })),
          { priority },
        );
      },
      signal,
    );
  }

  /** A clip's small picture, if a tile has been made: without decoding. */
  keptSmall = (wanted: Omit<Wanted, 'source'>): Promise<PlanarPicture | undefined> =>
    this.pictures.get(smallKeyOf(wanted));

  /** A small picture as stored on disk, so that it always looks the same. */
  private small(wanted: Wanted, priority: number, signal: AbortSignal): Promise<PlanarPicture> {
    const key = smallKeyOf(wanted);
    const { source, frame, width } = wanted;
    return this.work.share(
      key,
      async (until) =>
        (await this.pictures.get(key)) ??
        this.pictures.keep(key, await this.decoders.add(() => restFrame(source, frame, width, until), { priority })),
      signal,
    );
  }

  /** An ungraded JPEG from a file that is not in the library, for clips on a card. */
  preview(path: string, signal?: AbortSignal): Promise<Buffer> {
    return this.work.share(
      `preview/${path}`,
      (until) => this.decoders.add(() => previewOf(path, PREVIEW_WIDTH, until), { priority: PRIORITY.thumb }),
      signal,
    );
  }

  private async decoded(wanted: Wanted, priority: number, signal?: AbortSignal): Promise<PlanarPicture> {
    const { source, frame, width, part, noise } = wanted;
    return this.work.once(
      this.frames,
      keyOf(wanted),
      async (until) =>
        noise
          ? restOf(await this.whole(wanted, noise, until), source.facts, width, until, part)
          : this.decoders.add(() => restFrame(source, frame, width, until, part), { priority }),
      signal,
    );
  }
}

const wholeKeyOf = ({ hash, frame, noise }: Pick<Wanted, 'hash' | 'frame' | 'noise'>): string =>
  [hash, frame, ...(noise ? ['noise', noise.luma, noise.chroma] : [])].join('/');

const keyOf = (wanted: Omit<Wanted, 'source'>): string => {
  const { width, part } = wanted;
  return [wholeKeyOf(wanted), width, ...(part ? [part.x, part.y, part.width, part.height] : [])].join('/');
};

/** Stored on disk; those made with properties from an earlier version are recreated. */
const smallKeyOf = (wanted: Omit<Wanted, 'source'>): string => `small/${PROBE_VERSION}/${keyOf(wanted)}`;
