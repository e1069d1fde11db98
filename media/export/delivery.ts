import type { MediaFacts } from '@inkavo/core/model/facts';
import { DELIVERY_INFO, type Delivery } from '@inkavo/core/model/job';
import { deliveredRate, keepsFrames, shownRate, type Retime } from '@inkavo/core/model/retime';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { pixelFormatName, planarFormatOf } from '../codec/formats';
import { SAFE_INPUT } from '../codec/run';

/**
 * The planar format that goes to the encoder. A graded clip leaves as BT.709 in limited range; one without steps
 * keeps its own matrix, range and super-whites.
 */
export function deliveredFormat(facts: MediaFacts, delivery: Delivery, graded: boolean): PlanarFormat {
  const own = planarFormatOf(facts);
  const base: PlanarFormat = graded ? { ...own, matrix: 'bt709', range: 'limited' } : own;
  if (delivery.codec === 'ffv1') return base;
  return { ...base, chroma: '420', depth: delivery.codec === 'h264' ? 8 : 10 };
}

/** Colour tags of the delivered file: BT.709 for a graded clip, the file's own for one without steps. */
function colourTags(facts: MediaFacts, graded: boolean): string[] {
  const t = graded ? { range: 'tv', matrix: 'bt709', primaries: 'bt709', transfer: 'bt709' } : { ...facts.tags };
  if (!graded) t.range ??= facts.range === 'full' ? 'pc' : 'tv';
  return [
    ...(t.range ? ['-color_range', t.range] : []),
    ...(t.matrix ? ['-colorspace', t.matrix] : []),
    ...(t.primaries ? ['-color_primaries', t.primaries] : []),
    ...(t.transfer ? ['-color_trc', t.transfer] : []),
  ];
}

/** Sound codecs that may be copied into an mp4 file; others are encoded anew as AAC. */
const COPIED = ['aac', 'mp3', 'ac3', 'alac', 'opus'];

export interface EncodeJob {
  facts: MediaFacts;
  delivery: Delivery;
  format: PlanarFormat;
  graded: boolean;
  /** Pipe from which planar frames come, and where the file goes. */
  pipe: string;
  output: string;
  /** The original, for its sound, and the part of it that is delivered. */
  original: string;
  startSeconds: number;
  lengthSeconds: number;
  retime?: Retime;
}

/** The filter that brings frames to the delivered rate; none where each is delivered once. */
function retimeFilter(facts: MediaFacts, retime: Retime | undefined): string[] {
  if (!retime || keepsFrames(facts, retime)) return [];
  const { num, den } = deliveredRate(facts, retime);
  // Blends always, also where the picture changes much: what looks like a cut is fast motion here.
  return retime.between === 'blended'
    ? [`framerate=fps=${num}/${den}:interp_start=0:interp_end=255:scene=100`]
    : [`fps=${num}/${den}:round=near`];
}

/** The tempo of sound by a factor: each filter takes it by 0.5 to 2. */
function tempo(factor: number): string {
  const parts: number[] = [];
  let left = factor;
  for (; left < 0.5; left /= 0.5) parts.push(0.5);
  for (; left > 2; left /= 2) parts.push(2);
  return [...parts, left].map((v) => `atempo=${v}`).join(',');
}

/** Lines from which a lossless picture is cut into 16 slices, which threads work on. */
const SLICED_FROM = 360;

/** Seeks in the sound to a time counted from the first frame of the picture, also to that frame itself. */
const soundFrom = (facts: MediaFacts, seconds: number): string[] => [
  ...['-seek_timestamp', '1', '-ss', (facts.startSeconds + seconds).toFixed(6)],
];

/** Arguments of the encoder. Colour tags are always explicit. */
export function encoderArgs(job: EncodeJob): string[] {
  const { facts, delivery, format } = job;
  const { retime } = job;
  const shown = retime ? shownRate(facts, retime) : facts.frameRate;
  const rate = `${shown.num}/${shown.den}`;
  // The encoder refuses many slices for small pictures (121 odd lines: measured).
  const slices = format.height < SLICED_FROM ? '4' : '16';
  const video: Record<Delivery['codec'], string[]> = {
    h264: ['-c:v', 'libx264', '-preset', 'veryfast', '-profile:v', 'high'],
    h265: ['-c:v', 'libx265', '-preset', 'veryfast', '-tag:v', 'hvc1', '-x265-params', 'log-level=error'],
    ffv1: ['-c:v', 'ffv1', '-level', '3', '-slices', slices, '-slicecrc', '1', '-g', '1'],
  };
  const rateControl =
    delivery.codec === 'ffv1'
      ? []
      : delivery.megabits
        ? ['-b:v', `${delivery.megabits}M`]
        : ['-crf', String(delivery.quality)];
  const container = DELIVERY_INFO[delivery.codec].extension;
  const heard = facts.audio && retime?.sound !== 'goes';
  const slowed = retime && retime.factor !== 1;
  const copy = container === 'mkv' || (facts.audio && COPIED.includes(facts.audio.codec));
  // Sound before the start must go, or the codec moves the picture back by as much.
  const encoded = container === 'mkv' ? ['-c:a', 'flac'] : ['-c:a', 'aac', '-b:a', '256k'];
  const soundCodec = slowed ? ['-af', tempo(retime.factor), ...encoded] : copy ? ['-c:a', 'copy'] : encoded;
  const sound = heard ? ['-map', '1:a:0', '-copypriorss:a', '0', ...soundCodec] : [];
  // 4:2:0 codecs need even sides; a last odd column or row is left out.
  const odd = delivery.codec !== 'ffv1' && (format.width % 2 || format.height % 2);
  const filters = [...retimeFilter(facts, retime), ...(odd ? ['crop=trunc(iw/2)*2:trunc(ih/2)*2:0:0'] : [])];
  return [
    '-f',
    'rawvideo',
    '-pix_fmt',
    pixelFormatName(format),
    '-s',
    `${format.width}x${format.height}`,
    '-r',
    rate,
    ...colourTags(facts, job.graded),
    '-i',
    job.pipe,
    ...(heard
      ? [...soundFrom(facts, job.startSeconds), '-t', job.lengthSeconds.toFixed(6), ...SAFE_INPUT, '-i', job.original]
      : []),
    '-map',
    '0:v:0',
    ...sound,
    ...(filters.length ? ['-vf', filters.join(',')] : []),
    ...video[delivery.codec],
    ...rateControl,
    ...colourTags(facts, job.graded),
    ...(container === 'mp4' ? ['-movflags', '+faststart+write_colr', '-f', 'mp4'] : ['-f', 'matroska']),
    job.output,
  ];
}
