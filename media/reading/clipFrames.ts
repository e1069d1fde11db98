import PQueue from 'p-queue';
import { fps } from '@inkavo/core/model/facts';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { DECODE_LIMITS, PICTURES } from '../codec/limits';
import { QUIET, run, SAFE_INPUT } from '../codec/run';
import { decodingKeyframe, hasKeyframes, keyBefore, KEYFRAMES_ONLY, timelineFrame } from '../frames/keyframes';
import { FILE_CODES, GOP, proxySource } from '../frames/proxy';
import { decodingFrom, evenFilter, originalIndex, type Source } from '../frames/rest';

/** Maximum width in pixels of a picture for reading. */
const WIDTH = 480;
/** Number of pictures that represent a clip. */
export const READ_FRAMES = 24;
/** Number of pictures of either clip when matching. */
export const MATCH_FRAMES = 12;
/** Minimum number of a proxy's keyframes to represent a stretch. */
const ENOUGH = 12;
/** Number of concurrent seeks. */
const AT_ONCE = 2;
/**
 * Cost of a seek, in pixels decoded in the same time: 0.2–0.35 s on two cores that decode 170 million (4K HEVC, 10 bit)
 * to 280 million a second (H.264), measured.
 */
const SEEK_PIXELS = 40e6;

export interface ReadPicture {
  picture: PlanarPicture;
  frame: number;
  seconds: number;
}

interface Stretch {
  inFrame: number;
  outFrame: number;
  count: number;
}

/** One frame of a clip's timeline, its index in the original, and whether it can be decoded without earlier frames. */
interface Sought {
  frame: number;
  index: number;
  isKey: boolean;
}

export interface ReadOptions {
  signal?: AbortSignal;
  /** Called with the number of pictures read so far, when they are read one by one. */
  onProgress?: (done: number, of: number) => void;
}

/**
 * Pictures spread over a stretch of a clip, with the file's own pixels rather than averages. From the proxy if there is
 * one, which is quick; it holds the file's code values at 8 bits. Evenly spaced and decoded in one pass; or, if
 * quicker, as in a long clip, with a seek for each, to a nearby keyframe if there is one. Frames count from the clip's
 * first.
 */
export async function clipFrames(
  source: Source,
  {
    proxy,
    inFrame,
    outFrame,
    count = READ_FRAMES,
  }: { proxy?: string; inFrame: number; outFrame: number; count?: number },
  { signal, onProgress }: ReadOptions = {},
): Promise<ReadPicture[]> {
  const from = proxy ? proxySource(source, proxy) : source;
  const reader = new Reader(from, proxy !== undefined);
  const stretch = { inFrame, outFrame, count };
  const run = reader.run(stretch);
  const apart = reader.apart(stretch);
  if (apart.pixels >= run.pixels) return reader.inOneGo(run, signal);
  const queue = new PQueue({ concurrency: AT_ONCE });
  let done = 0;
  let failure: unknown;
  const pictures = await queue.addAll(
    apart.frames.map((sought) => async () => {
      if (signal?.aborted) return undefined;
      // A file may be damaged in one place only.
      const picture = await reader.one(sought, signal).catch((error: unknown) => void (failure ??= error));
      done += 1;
      onProgress?.(done, apart.frames.length);
      return picture ?? undefined;
    }),
  );
  signal?.throwIfAborted();
  const found = pictures.filter((picture) => picture !== undefined);
  if (found.length === 0 && failure) throw failure as Error;
  return found;
}

/** Frames of a stretch to decode in one pass: from `first` on, one of `every` groups of `unit` frames. */
interface Run {
  first: number;
  every: number;
  unit: number;
  length: number;
  pixels: number;
}

/** Reads pictures of an original, or of a proxy. */
class Reader {
  private readonly format: PlanarFormat;
  private readonly pixels: number;

  constructor(
    private readonly source: Source,
    private readonly isProxy: boolean,
  ) {
    const { facts } = source;
    const width = Math.min(facts.width, WIDTH) & ~1;
    this.format = {
      width,
      height: Math.max(2, Math.round((facts.height * width) / facts.width) & ~1),
      depth: facts.depth === 8 ? 8 : 10,
      chroma: '420',
      range: facts.range,
      matrix: facts.matrix,
      chromaSite: facts.chromaSite,
    };
    this.pixels = facts.width * facts.height;
  }

  /** Parameters for reading a stretch in one pass. For long stretches of a proxy only keyframes are decoded. */
  run({ inFrame, outFrame, count }: Stretch): Run {
    const length = outFrame - inFrame + 1;
    const unit = this.isProxy && length >= ENOUGH * GOP ? GOP : 1;
    const first = Math.ceil(inFrame / unit) * unit;
    const every = Math.ceil(Math.max(1, Math.floor(length / count)) / unit) * unit;
    // Keyframes are counted from the first one.
    const decoded = unit > 1 ? outFrame / unit : length + this.leadOf(originalIndex(this.source, first));
    return { first, every, unit, length: outFrame - first + 1, pixels: decoded * this.pixels };
  }

  /** Frames decoded before the one at an index. */
  private leadOf(index: number): number {
    const { facts } = this.source;
    const ahead = Math.ceil(facts.seekAhead * fps(facts));
    return Math.min(index, index - keyBefore(this.source, index) + ahead);
  }

  /** The same stretch with a seek for each frame: to a keyframe if one lies within half the distance to the next. */
  apart({ inFrame, outFrame, count }: Stretch): { frames: Sought[]; pixels: number } {
    const spaced = Math.max(1, Math.floor((outFrame - inFrame + 1) / count));
    const keys = hasKeyframes(this.source) ? this.source.keys! : [];
    let pixels = 0;
    const frames: Sought[] = [];
    for (let wanted = inFrame; wanted <= outFrame && frames.length < count; wanted += spaced) {
      const middle = originalIndex(this.source, wanted);
      const [from, to] = [wanted - spaced / 2, Math.min(outFrame, wanted + spaced / 2)];
      const near = keys
        .filter((key) => Math.abs(key - middle) <= spaced)
        .sort((a, b) => Math.abs(a - middle) - Math.abs(b - middle))
        .map((index) => ({ index, frame: timelineFrame(this.source, index) ?? -1, isKey: true }))
        .find(({ frame }) => frame >= Math.max(inFrame, from) && frame < to);
      const sought = near ?? { index: middle, frame: wanted, isKey: false };
      frames.push(sought);
      pixels += SEEK_PIXELS + (1 + (sought.isKey ? 1 : this.leadOf(sought.index))) * this.pixels;
    }
    return { frames, pixels };
  }

  async inOneGo({ first, every, unit, length }: Run, signal?: AbortSignal): Promise<ReadPicture[]> {
    const { source } = this;
    const keysOnly = unit > 1;
    const begin = keysOnly ? first / unit : 0;
    const { seek, filters } = keysOnly
      ? { seek: KEYFRAMES_ONLY, filters: [] }
      : decodingFrom(source, originalIndex(source, first));
    const last = begin + (length - 1) / unit;
    const raw = await this.decode(
      seek,
      [
        ...filters,
        ...(source.facts.variableRate ? [evenFilter(source, first)] : []),
        `select='between(n,${begin},${last})*not(mod(n-${begin},${every / unit}))'`,
      ],
      Math.ceil(length / every),
      signal,
    );
    const bytes = pictureBytes(this.format);
    return Array.from({ length: Math.floor(raw.length / bytes) }, (_, i) =>
      this.pictureAt(first + i * every, raw.subarray(i * bytes, (i + 1) * bytes)),
    );
  }

  /** Undefined if the file is damaged there. */
  async one({ frame, index, isKey }: Sought, signal?: AbortSignal): Promise<ReadPicture | undefined> {
    const { seek, filters } = isKey ? decodingKeyframe(this.source, index) : decodingFrom(this.source, index);
    const raw = await this.decode([...(isKey ? KEYFRAMES_ONLY : []), ...seek], filters, 1, signal);
    if (raw.length === pictureBytes(this.format)) return this.pictureAt(frame, raw);
    return isKey ? this.one({ frame, index, isKey: false }, signal) : undefined;
  }

  private pictureAt(frame: number, raw: Uint8Array): ReadPicture {
    const picture = planesOver(new Uint8Array(raw).buffer, this.format);
    return { picture, frame, seconds: frame / fps(this.source.facts) };
  }

  private decode(seek: string[], filters: string[], count: number, signal?: AbortSignal): Promise<Buffer> {
    const { width, height, depth } = this.format;
    const filter = [
      ...filters,
      `scale=${width}:${height}:flags=neighbor:in_range=full:out_range=full`,
      ...(this.isProxy ? FILE_CODES : []),
      `format=${depth === 8 ? 'yuv420p' : 'yuv420p10le'}`,
    ].join(',');
    return run(
      'ffmpeg',
      [
        ...[...QUIET, ...DECODE_LIMITS, ...SAFE_INPUT, ...seek, '-i', this.source.path],
        ...['-an', '-sn', '-dn', '-map', `0:${PICTURES}`, '-vf', filter],
        ...['-fps_mode', 'passthrough', '-frames:v', String(count), '-f', 'rawvideo', '-'],
      ],
      { signal, timeoutMs: 600_000 },
    );
  }
}
