import { once } from 'node:events';
import {
  createWriteStream,
  existsSync,
  mkdirSync,
  mkdtempSync,
  renameSync,
  rmSync,
  statSync,
  type WriteStream,
} from 'node:fs';
import { open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { DELIVERY_INFO, type Delivery } from '@inkavo/core/model/delivery';
import {
  filmFormat,
  filmFrames,
  placeShots,
  shotRetime,
  type FilmFormat,
  type Placed,
  STANDARD_ONLY,
} from '@inkavo/core/model/film';
import type { Step } from '@inkavo/core/model/grade';
import { shownRate, type Retime } from '@inkavo/core/model/retime';
import { pictureBytes, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { pixelFormatName } from '../codec/formats';
import { failureOf, MediaError, QUIET } from '../codec/run';
import { spawnCodec } from '../codec/spawn';
import type { Source } from '../frames/rest';
import { colourTags, framingFilter, rawInput, retimeFilter } from './delivery';
import { containerArgs, pictureArgs, unitFor } from './encoders';
import { SOUND } from './sound';
import type { HardwareEncoder } from './hardwareEncoders';
import { gradeInto, type Graded } from './exportClip';
import { filmSound, SOUND_FORMAT } from './filmSound';
import { startCodec } from './parts';

/** The result of making a film. */
export interface MadeFilm {
  frames: number;
  /** Indices of clips with undecodable frames, replaced by their last good one. */
  damaged: { shot: number; decoded: number; of: number }[];
}

/** One clip of a film. */
export interface FilmShot {
  source: Source;
  steps: Step[];
  luts?: Record<string, string>;
  inFrame: number;
  outFrame: number;
  retime?: Retime | null;
}

export interface FilmOptions {
  shots: FilmShot[];
  delivery: Delivery;
  /** Seconds; 0: straight cuts. */
  dissolve: number;
  levelled: boolean;
  /** The finished file. It appears only when complete. */
  output: string;
  /** Folder for temporary files. Default: the system's temporary folder. */
  work?: string;
  program?: string;
  onProgress?: (framesDone: number, frames: number) => void;
  signal?: AbortSignal;
}

const BACKGROUND = 5;
/** A film is always graded: BT.709 in limited range. */
const TAGS = ['-color_range', 'tv', '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'];

/**
 * Makes one film of several graded clips at one size and rate, with cuts or dissolves. Frames go from each clip's
 * grading straight into one encoder; only dissolves are buffered briefly on disk. Throws a {@link MediaError} and
 * leaves no file.
 */
export async function makeFilm(options: FilmOptions): Promise<MadeFilm> {
  if (options.delivery.colour !== 'standard') throw new MediaError(STANDARD_ONLY);
  const temporary = options.work ?? tmpdir();
  mkdirSync(temporary, { recursive: true });
  const work = mkdtempSync(join(temporary, 'inkavo-film-'));
  const part = `${options.output}.part`;
  try {
    const unit = await unitFor(options.delivery);
    // A hardware encoder that rejects the film's size has not written anything yet: fall back to the CPU.
    const made = await encodeFilm(options, work, part, unit).catch((error: unknown) => {
      const begun = existsSync(part) && statSync(part).size > 0;
      if (!unit || begun || options.signal?.aborted) throw error;
      return encodeFilm(options, work, part, undefined);
    });
    renameSync(part, options.output);
    return made;
  } finally {
    rmSync(part, { force: true });
    rmSync(work, { recursive: true, force: true });
  }
}

async function encodeFilm(
  options: FilmOptions,
  work: string,
  part: string,
  unit: HardwareEncoder | undefined,
): Promise<MadeFilm> {
  const { delivery, dissolve, levelled, onProgress } = options;
  const shots = options.shots.map((s) => ({ ...s, facts: s.source.facts }));
  const format = filmFormat(shots, delivery);
  const placed = placeShots(shots, format.rate, dissolve);
  const frames = filmFrames(placed);
  const planar = planarOf(format, delivery, shots);
  const retimes = shots.map((shot) => shotRetime(shot, format, delivery));
  const sound = await filmSound(
    shots.map((shot, k) => ({ ...shot, retime: retimes[k] })),
    placed,
    { rate: format.rate, levelled, work, signal: options.signal },
  );
  const broken = new AbortController();
  const signal = options.signal ? AbortSignal.any([options.signal, broken.signal]) : broken.signal;
  const encoder = startEncoder(encoderOf(delivery, planar, format, sound, part, unit), broken, signal);
  const film = new FilmStream(encoder.input, planar, placed, work, (done) => onProgress?.(done, frames));
  const damaged: MadeFilm['damaged'] = [];
  try {
    for (const [k, shot] of shots.entries()) {
      let taken: Promise<void> | undefined;
      const take = (made: Graded) =>
        startCodec(
          'encoder',
          conformArgs(made, shot, retimes[k], placed[k].frames, { delivery, format, planar }),
          (out) => {
            taken = film.take(out, k);
            // Failures are reported by the parts.
            taken.catch(() => broken.abort());
          },
        );
      const decoded = await gradeInto(
        { ...shot, retime: undefined, delivery, work, program: options.program, alwaysGraded: true, signal },
        take,
      );
      await taken;
      const of = shot.outFrame - shot.inFrame + 1;
      if (decoded < of) damaged.push({ shot: k, decoded, of });
    }
    encoder.input.end();
    await encoder.ended;
    return { frames, damaged };
  } catch (error) {
    encoder.kill();
    // The encoder's own error takes precedence over its consequences.
    await encoder.ended.catch((reason: unknown) => {
      if (!options.signal?.aborted) throw reason;
    });
    throw error;
  }
}

/** Pixel format of a film's frames on the way to its encoder. */
function planarOf({ width, height }: FilmFormat, delivery: Delivery, shots: readonly FilmShot[]): PlanarFormat {
  const most = Math.max(...shots.map((s) => s.source.facts.depth)) > 8 ? 10 : 8;
  const depth = DELIVERY_INFO[delivery.codec].depth ?? most;
  return { width, height, depth, chroma: '420', range: 'limited', matrix: 'bt709', chromaSite: 'left' };
}

/** Converts a shot's graded frames to the film's rate, length and size. */
function conformArgs(
  { format: from, graded, pipe }: Graded,
  shot: FilmShot,
  retime: Retime,
  frames: number,
  { delivery, format, planar }: { delivery: Delivery; format: FilmFormat; planar: PlanarFormat },
): string[] {
  const { facts } = shot.source;
  const inside = delivery.fit === 'inside';
  const shape = {
    ...delivery,
    fit: inside ? 'crop' : delivery.fit,
    aspect: `${format.width}:${format.height}` as Delivery['aspect'],
    lines: Math.min(format.width, format.height),
    enlarge: true,
  };
  const filters = [
    ...retimeFilter(facts, retime),
    // Rates that do not divide leave a frame more or less; the film's frames are counted.
    ...['tpad=stop=-1:stop_mode=clone', `trim=end_frame=${frames}`],
    ...framingFilter(from, shape),
    // The clips are cropped to the film's shape without its bars.
    ...(inside ? framingFilter(format, { ...delivery, lines: null }) : []),
    `scale=${format.width}:${format.height}:in_range=full:out_range=full`,
    `format=${pixelFormatName(planar)}`,
  ];
  return [
    ...[...QUIET, '-y', ...rawInput(from, shownRate(facts, retime), colourTags(facts, graded), pipe)],
    ...['-vf', filters.join(','), '-fps_mode', 'passthrough', '-f', 'rawvideo', 'pipe:1'],
  ];
}

function encoderOf(
  delivery: Delivery,
  planar: PlanarFormat,
  { rate }: FilmFormat,
  sound: string | undefined,
  output: string,
  unit: HardwareEncoder | undefined,
): string[] {
  const { extension } = DELIVERY_INFO[delivery.codec];
  return [
    ...QUIET.filter((a) => a !== '-nostdin'),
    ...['-y', ...rawInput(planar, rate, TAGS, 'pipe:0')],
    ...(sound ? [...SOUND_FORMAT, '-i', sound] : []),
    ...['-map', '0:v:0', ...(sound ? ['-map', '1:a:0', ...SOUND[extension].encoded] : [])],
    ...pictureArgs(delivery, { ...planar, framesPerSecond: rate.num / rate.den }, [], unit),
    ...TAGS,
    ...containerArgs(extension),
    output,
  ];
}

interface Encoder {
  input: WriteStream;
  /** Resolves when the file is complete; otherwise rejects with the reason. */
  ended: Promise<void>;
  kill(): void;
}

function startEncoder(args: string[], broken: AbortController, signal: AbortSignal): Encoder {
  const child = spawnCodec('ffmpeg', args, ['pipe', 'ignore', 'pipe'], { nice: BACKGROUND });
  let err = '';
  let killed = false;
  child.stderr!.on('data', (chunk: Buffer) => {
    err = (err + chunk.toString()).slice(-8000);
  });
  // The writer learns of failures from the parts.
  child.stdin!.on('error', () => undefined);
  const ended = new Promise<void>((resolve, reject) => {
    child.on('error', (error) => reject(new MediaError('The encoder could not be started.', String(error))));
    child.on('close', (code, by) => {
      if (code === 0 || killed) resolve();
      else reject(failureOf('ffmpeg', code, by, err));
    });
  });
  ended.catch(() => broken.abort());
  const kill = (): void => {
    killed = true;
    child.kill('SIGKILL');
  };
  signal.addEventListener('abort', kill, { once: true });
  return { input: child.stdin as unknown as WriteStream, ended, kill };
}

/** Writes the frames of consecutive shots to the encoder, mixing the end of one into the beginning of the next. */
class FilmStream {
  private readonly frameBytes: number;
  private done = 0;

  constructor(
    private readonly to: WriteStream,
    private readonly planar: PlanarFormat,
    private readonly placed: readonly Placed[],
    private readonly work: string,
    private readonly onFrames: (done: number) => void,
  ) {
    this.frameBytes = pictureBytes(planar);
  }

  /** Consumes all frames of shot k. Rejects if there are fewer than expected. */
  async take(frames: Readable, k: number): Promise<void> {
    const { frames: count, dissolve } = this.placed[k];
    const [head, whole] = [dissolve * this.frameBytes, count * this.frameBytes];
    const shared = (this.placed[k + 1]?.dissolve ?? 0) * this.frameBytes;
    const before = dissolve > 0 ? await open(this.kept(k), 'r') : undefined;
    const after = shared > 0 ? createWriteStream(this.kept(k + 1)) : undefined;
    let at = 0;
    // A two-byte sample may be split between chunks.
    let odd: Buffer = Buffer.alloc(0);
    try {
      for await (const chunk of frames as AsyncIterable<Buffer>) {
        let rest = odd.length ? Buffer.concat([odd, chunk]) : chunk;
        const ready = rest.length - (this.planar.depth > 8 ? rest.length % 2 : 0);
        odd = rest.subarray(ready);
        rest = rest.subarray(0, ready);
        while (rest.length > 0) {
          // Chunks are split at frame ends, and at the boundaries of the three parts.
          const frameEnd = (Math.floor(at / this.frameBytes) + 1) * this.frameBytes;
          const size = Math.min(rest.length, frameEnd - at);
          const piece = rest.subarray(0, size);
          if (at < head) await this.mixed(piece, before!, at, dissolve);
          else if (at < whole - shared) await write(this.to, piece);
          else await write(after!, piece);
          at += size;
          rest = rest.subarray(size);
        }
        this.told(Math.floor(Math.min(at, whole - shared) / this.frameBytes), k);
      }
      if (at !== whole)
        throw new MediaError(`A clip of the film has ${at / this.frameBytes} frames in place of ${count}.`);
    } finally {
      await before?.close();
      if (before) rmSync(this.kept(k), { force: true });
      if (after) {
        after.end();
        await once(after, 'close');
      }
    }
  }

  private kept = (k: number): string => join(this.work, `dissolve-${k}.raw`);

  /** A dissolve mixes code values, as is usual in video (common practice). */
  private async mixed(
    piece: Buffer,
    before: Awaited<ReturnType<typeof open>>,
    at: number,
    dissolve: number,
  ): Promise<void> {
    const old = Buffer.alloc(piece.length);
    await before.read(old, 0, piece.length, at);
    const share = (Math.floor(at / this.frameBytes) + 1) / (dissolve + 1);
    const out = Buffer.allocUnsafe(piece.length);
    if (this.planar.depth === 8)
      for (let i = 0; i < piece.length; i += 1) out[i] = Math.round(old[i] + (piece[i] - old[i]) * share);
    else
      for (let i = 0; i < piece.length; i += 2) {
        const a = old.readUInt16LE(i);
        out.writeUInt16LE(Math.round(a + (piece.readUInt16LE(i) - a) * share), i);
      }
    await write(this.to, out);
  }

  private told(frames: number, k: number): void {
    const done = this.placed[k].start + frames;
    if (done === this.done) return;
    this.done = done;
    this.onFrames(done);
  }
}

/** Writes with back pressure. */
async function write(to: WriteStream, piece: Buffer): Promise<void> {
  if (to.destroyed) throw new MediaError('The encoder ended before the film did.');
  if (to.write(piece)) return;
  const heard = new AbortController();
  const { signal } = heard;
  await Promise.race([once(to, 'drain', { signal }), once(to, 'close', { signal })]).finally(() => heard.abort());
}
