import { timecodeAfter } from '@inkavo/core/formats/timeline/timecode';
import { audioTracks, fps, type MediaFacts } from '@inkavo/core/model/facts';
import { DELIVERY_INFO, deliveredRetime, deliveredSize, framing, type Delivery } from '@inkavo/core/model/delivery';
import { deliveredRate, keepsFrames, shownRate, type Retime } from '@inkavo/core/model/retime';
import { HLG_TAG, type DeliveredColour } from '@inkavo/core/program/deliver';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { pixelFormatName, planarFormatOf } from '../codec/formats';
import { SAFE_INPUT } from '../codec/run';
import { containerArgs, pictureArgs } from './encoders';
import { ofTrack, SOUND, soundCodec } from './sound';
import type { HardwareEncoder } from './hardwareEncoders';

const MATRIX = { standard: 'bt709', hlg: 'bt2020', own: undefined } as const;

/**
 * The planar format sent to the encoder. A graded clip is delivered as BT.709, or as HLG, in limited range; an ungraded
 * one keeps its own matrix, range and super-whites.
 */
export function deliveredFormat(
  facts: MediaFacts,
  delivery: Delivery,
  graded: boolean,
  as: DeliveredColour['as'] = 'standard',
): PlanarFormat {
  const own = planarFormatOf(facts);
  const base: PlanarFormat = graded ? { ...own, matrix: MATRIX[as] ?? own.matrix, range: 'limited' } : own;
  const { depth } = DELIVERY_INFO[delivery.codec];
  if (depth === null) return base;
  // For 4:2:2 deliveries the file's chroma is kept up to the encoder, which converts it.
  return { ...base, chroma: delivery.codec === 'vc3' ? own.chroma : '420', depth };
}

const TAGS = {
  standard: { range: 'tv', matrix: 'bt709', primaries: 'bt709', transfer: 'bt709' },
  hlg: { range: 'tv', matrix: 'bt2020nc', primaries: 'bt2020', transfer: HLG_TAG },
} as const;

/** Colour tags of the delivered file: BT.709 or HLG for a graded clip, the file's own for an ungraded one. */
export function colourTags(facts: MediaFacts, graded: boolean, as: DeliveredColour['as'] = 'standard'): string[] {
  const own = { ...facts.tags, range: facts.tags.range ?? (facts.range === 'full' ? 'pc' : 'tv') };
  const t = !graded ? own : as === 'own' ? { ...own, range: 'tv' } : TAGS[as];
  return [
    ...(t.range ? ['-color_range', t.range] : []),
    ...(t.matrix ? ['-colorspace', t.matrix] : []),
    ...(t.primaries ? ['-color_primaries', t.primaries] : []),
    ...(t.transfer ? ['-color_trc', t.transfer] : []),
  ];
}

export interface EncodeJob {
  facts: MediaFacts;
  delivery: Delivery;
  format: PlanarFormat;
  graded: boolean;
  as?: DeliveredColour['as'];
  /** Pipe that planar frames are read from, and the output path. */
  pipe: string;
  output: string;
  /** The original, as the source of sound, and the delivered part of it. */
  original: string;
  startSeconds: number;
  lengthSeconds: number;
  retime?: Retime;
  /** The hardware encoder; omitted: encoded by the CPU. */
  unit?: HardwareEncoder;
}

/** The filter to the delivered rate; none if every frame is delivered once. */
export function retimeFilter(facts: MediaFacts, retime: Retime | undefined): string[] {
  if (!retime || keepsFrames(facts, retime)) return [];
  const { num, den } = deliveredRate(facts, retime);
  // Scene change detection is off: what looks like a cut is fast motion here.
  return retime.between === 'blended'
    ? [`framerate=fps=${num}/${den}:interp_start=0:interp_end=255:scene=100`]
    : [`fps=${num}/${den}:round=near`];
}

/** Time-stretches sound by a factor: each filter allows 0.5 to 2. */
export function tempo(factor: number): string {
  const parts: number[] = [];
  let left = factor;
  for (; left < 0.5; left /= 0.5) parts.push(0.5);
  for (; left > 2; left /= 2) parts.push(2);
  return [...parts, left].map((v) => `atempo=${v}`).join(',');
}

/** Seeks sound relative to the first frame of the picture, which may be at time 0. */
export const soundFrom = (facts: MediaFacts, seconds: number): string[] => [
  ...['-seek_timestamp', '1', '-ss', (facts.startSeconds + seconds).toFixed(6)],
];

/** Filters that bring a graded picture to the delivered size and shape; none if unchanged. */
export function framingFilter(size: Pick<PlanarFormat, 'width' | 'height'>, delivery: Delivery): string[] {
  const { crop, scaled, width, height } = framing(size, delivery);
  const cropped = crop.width !== size.width || crop.height !== size.height;
  const resized = scaled.width !== crop.width || scaled.height !== crop.height;
  const barred = width !== scaled.width || height !== scaled.height;
  return [
    ...(cropped ? [`crop=${crop.width}:${crop.height}:${crop.x}:${crop.y}:exact=1`] : []),
    // Equal ranges on both sides leave code values unchanged.
    ...(resized
      ? [
          `scale=${scaled.width}:${scaled.height}:flags=bicubic+accurate_rnd+full_chroma_int:in_range=full:out_range=full`,
        ]
      : []),
    ...(barred ? [`pad=${width}:${height}:(ow-iw)/2:(oh-ih)/2:black`] : []),
  ];
}

/** Arguments for reading planar frames from a pipe. Colour tags are always explicit. */
export const rawInput = (
  format: PlanarFormat,
  rate: MediaFacts['frameRate'],
  tags: readonly string[],
  pipe: string,
): string[] => [
  ...['-f', 'rawvideo', '-pix_fmt', pixelFormatName(format), '-s', `${format.width}x${format.height}`],
  ...['-r', `${rate.num}/${rate.den}`, ...tags, '-i', pipe],
];

/**
 * Time code of the delivered file's first frame: that of the recording, so that the file can replace it in a timeline.
 */
function timecodeArgs(facts: MediaFacts, startSeconds: number, container: string): string[] {
  const text = facts.timecode && timecodeAfter(facts.timecode, Math.round(startSeconds * fps(facts)), facts.frameRate);
  if (!text) return [];
  return container === 'mkv' ? ['-metadata:s:v:0', `timecode=${text}`] : ['-timecode', text];
}

/** Arguments of the encoder. Colour tags are always explicit. */
export function encoderArgs(job: EncodeJob): string[] {
  const { facts, delivery, format } = job;
  const retime = deliveredRetime(job.retime, delivery);
  const tags = colourTags(facts, job.graded, job.as);
  const { extension } = DELIVERY_INFO[delivery.codec];
  const heard = retime?.sound === 'goes' ? [] : audioTracks(facts);
  const slowed = retime && retime.factor !== 1;
  const coded = slowed
    ? ['-af', tempo(retime.factor), ...SOUND[extension].encoded]
    : heard.flatMap((track, k) => ofTrack(k, soundCodec(track, extension, job.startSeconds === 0)));
  const mapped = heard.flatMap(({ index }) => ['-map', `1:a:${index}`]);
  // Sound before the start must be removed, or the codec delays the picture accordingly.
  const sound = heard.length ? [...mapped, '-copypriorss:a', '0', ...coded] : [];
  const framed = framing(format, delivery);
  const size = deliveredSize(format, delivery);
  const rate = retime ? deliveredRate(facts, retime) : facts.frameRate;
  const odd = size.width !== framed.width || size.height !== framed.height;
  const filters = [
    ...retimeFilter(facts, retime),
    ...framingFilter(format, delivery),
    ...(odd ? [`crop=${size.width}:${size.height}:0:0`] : []),
  ];
  return [
    ...rawInput(format, retime ? shownRate(facts, retime) : facts.frameRate, tags, job.pipe),
    ...(heard.length
      ? [...soundFrom(facts, job.startSeconds), '-t', job.lengthSeconds.toFixed(6), ...SAFE_INPUT, '-i', job.original]
      : []),
    ...['-map', '0:v:0', ...sound],
    ...pictureArgs(delivery, { ...size, framesPerSecond: rate.num / rate.den }, filters, job.unit),
    ...tags,
    ...(retime ? [] : timecodeArgs(facts, job.startSeconds, extension)),
    ...containerArgs(extension),
    job.output,
  ];
}
