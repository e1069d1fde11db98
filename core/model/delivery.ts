import { z } from 'zod';
import type { MediaFacts } from './facts';
import { retimeSchema, type Retime } from './retime';

/** Delivery formats, by purpose. VC-3 (SMPTE ST 2019-1) is intra-frame only. */
export const CODECS = ['h264', 'h265', 'h265x8', 'av1', 'vc3', 'ffv1'] as const;
export type Codec = (typeof CODECS)[number];

interface CodecInfo {
  title: string;
  use: string;
  extension: 'mp4' | 'mov' | 'mkv';
  /** Bits per sample; null: as in the file. */
  depth: 8 | 10 | null;
  /** Whether it has a quality setting. */
  quality: boolean;
}

/** Headings under which the formats are offered. */
export const DELIVERY_INFO: Record<Codec, CodecInfo> = {
  h264: { title: 'H.264, 8 bit', use: 'plays everywhere', extension: 'mp4', depth: 8, quality: true },
  h265: { title: 'H.265, 10 bit', use: 'smaller, finer tones', extension: 'mp4', depth: 10, quality: true },
  h265x8: { title: 'H.265, 8 bit', use: 'smaller, for older players', extension: 'mp4', depth: 8, quality: true },
  av1: { title: 'AV1, 10 bit', use: 'smallest; slow to make', extension: 'mp4', depth: 10, quality: true },
  vc3: { title: 'VC-3, 10 bit 4:2:2', use: 'for editing; large', extension: 'mov', depth: 10, quality: false },
  ffv1: {
    title: 'FFV1, lossless',
    use: 'for further work; larger still',
    extension: 'mkv',
    depth: null,
    quality: false,
  },
};

/** Aspect ratios for delivery; the last three are cinema formats (common practice). */
export const ASPECTS = ['16:9', '9:16', '1:1', '4:5', '2:1', '2.35:1', '2.39:1'] as const;
export type Aspect = (typeof ASPECTS)[number];
/**
 * How a picture is fitted to an aspect ratio: cropped; whole, with bars; or cropped, with bars that restore the file's
 * own ratio.
 */
export const FITS = ['crop', 'bars', 'inside'] as const;
/** Encoder effort for a smaller file of the same quality; `fast`: a hardware encoder of the machine. */
export const EFFORTS = ['fast', 'quick', 'even', 'careful'] as const;

/** Placeholders for file names, in braces. */
export const NAME_PARTS = ['clip', 'camera', 'outing', 'day', 'n', 'lines', 'codec'] as const;
type NamePart = (typeof NAME_PARTS)[number];

const namePattern = z
  .string()
  .trim()
  .min(1, 'A name is needed.')
  .max(200)
  .superRefine((pattern, ctx) => {
    for (const [whole, part] of pattern.matchAll(/\{([^}]*)\}/g))
      if (!(NAME_PARTS as readonly string[]).includes(part))
        ctx.addIssue({
          code: 'custom',
          message: `${whole} stands for nothing: ${NAME_PARTS.map((p) => `{${p}}`).join(', ')} can be used.`,
        });
  });

const rateSchema = z.object({ num: z.number().int().positive(), den: z.number().int().positive() });

/** Settings of a delivery. Omitted ones stay as in the file. */
export const deliverySchema = z.object({
  codec: z.enum(CODECS),
  /** Constant quality, lower is better; ignored by codecs without it. */
  quality: z.number().int().min(8).max(40).default(18),
  /** Mean bitrate in Mbit/s; replaces quality if given. */
  megabits: z.number().min(0.5).max(400).optional(),
  effort: z.enum(EFFORTS).default('quick'),
  /** Pixels of the shorter side; null: as in the file. Never enlarged, unless `enlarge`. */
  lines: z.number().int().min(120).max(4320).nullable().default(null),
  enlarge: z.boolean().default(false),
  /** Null: as in the file. */
  aspect: z.enum(ASPECTS).nullable().default(null),
  fit: z.enum(FITS).default('crop'),
  /** Position of a crop, 0–1 along the cropped side; 0.5 is the middle. */
  place: z.number().min(0).max(1).default(0.5),
  /** Null: the clip's own. */
  rate: rateSchema.nullable().default(null),
  sound: z.enum(['kept', 'off']).default('kept'),
  /** For recordings in hybrid log-gamma: converted to standard video, or unchanged, with 10 bits. */
  colour: z.enum(['standard', 'hlg']).default('standard'),
  /** File name, with placeholders in braces; see {@link NAME_PARTS}. */
  name: namePattern.default('{clip}'),
});
export type Delivery = z.infer<typeof deliverySchema>;
export type DeliveryRequest = z.input<typeof deliverySchema>;

/** Bits per pixel at quality 18, for footage with some noise (common practice); six steps of quality halve them. */
const BITS_A_PIXEL: Partial<Record<Codec, number>> = { h264: 0.2, h265: 0.14, h265x8: 0.13, av1: 0.1 };

/** Mbit/s of a delivery encoded at a bitrate: as set, or estimated from its quality. */
export function megabitsOf(
  { codec, quality, megabits }: Pick<Delivery, 'codec' | 'quality' | 'megabits'>,
  pixelsPerSecond: number,
): number {
  const bits = (BITS_A_PIXEL[codec] ?? 0.2) * 2 ** ((18 - quality) / 6) * pixelsPerSecond;
  return megabits ?? Math.min(400, Math.max(0.5, Number((bits / 1e6).toPrecision(2))));
}

export interface Framing {
  /** The crop, in pixels of the picture. */
  crop: { x: number; y: number; width: number; height: number };
  /** The size to which the crop is scaled. */
  scaled: { width: number; height: number };
  /** The whole frame including bars, if any. */
  width: number;
  height: number;
}

const even = (n: number): number => Math.max(2, 2 * Math.round(n / 2));
const evenDown = (n: number): number => Math.max(2, 2 * Math.floor(n / 2));

/** Crop and size of a delivered picture. Sides are rounded to even, unless nothing changes. */
export function framing(
  { width, height }: Pick<MediaFacts, 'width' | 'height'>,
  { lines, enlarge, aspect, fit, place }: Pick<Delivery, 'lines' | 'enlarge' | 'aspect' | 'fit' | 'place'>,
): Framing {
  const own = { x: 0, y: 0, width, height };
  if (lines === null && aspect === null) return { crop: own, scaled: { width, height }, width, height };
  const [a, b] = aspect ? aspect.split(':').map(Number) : [width, height];
  const shape = a / b;
  const wider = shape > width / height;
  // When cropping, the new shape lies inside the old one; with bars, outside.
  const cut = fit !== 'bars' || aspect === null;
  const inner = wider ? { width, height: width / shape } : { width: height * shape, height };
  const outer = wider ? { width: height * shape, height } : { width, height: width / shape };
  const inside = fit === 'inside' && aspect !== null;
  const full = inside ? { width, height } : cut ? inner : outer;
  const shorter = Math.min(full.width, full.height);
  const wanted = lines === null ? shorter : enlarge ? lines : Math.min(lines, shorter);
  const scale = wanted / shorter;
  const size = { width: even(full.width * scale), height: even(full.height * scale) };
  if (!cut) {
    const scaled = {
      width: Math.min(size.width, even(width * scale)),
      height: Math.min(size.height, even(height * scale)),
    };
    return { crop: own, scaled, ...size };
  }
  const part = {
    width: aspect === null ? width : Math.min(evenDown(width), even(inner.width)),
    height: aspect === null ? height : Math.min(evenDown(height), even(inner.height)),
  };
  const crop = {
    width: part.width,
    height: part.height,
    x: 2 * Math.floor(((width - part.width) * place) / 2),
    y: 2 * Math.floor(((height - part.height) * place) / 2),
  };
  const scaled = inside ? { width: even(inner.width * scale), height: even(inner.height * scale) } : size;
  return { crop, scaled, ...size };
}

/** The delivered size: codecs with subsampled chroma drop a last odd column or row. */
export function deliveredSize(
  facts: Pick<MediaFacts, 'width' | 'height'>,
  delivery: Delivery,
): { width: number; height: number } {
  const { width, height } = framing(facts, delivery);
  return delivery.codec === 'ffv1' ? { width, height } : { width: width - (width % 2), height: height - (height % 2) };
}

/** Whether a codec supports hybrid log-gamma: 8 bits would cause banding (ITU-R BT.2100 defines 10 and 12). */
export const holdsHlg = (codec: Codec): boolean => DELIVERY_INFO[codec].depth !== 8;

/**
 * A clip's retiming combined with the rate and sound settings of a delivery; undefined where every frame is delivered
 * as recorded.
 */
export function deliveredRetime(retime: Retime | null | undefined, { rate, sound }: Delivery): Retime | undefined {
  if (!retime && rate === null && sound === 'kept') return undefined;
  const own = retime ?? retimeSchema.parse({ factor: 1 });
  return { ...own, rate: rate ?? own.rate, sound: sound === 'off' ? 'goes' : own.sound };
}

/** Expands a file name pattern; without extension. */
export const nameFrom = (pattern: string, parts: Record<NamePart, string>): string =>
  pattern.replace(/\{([^}]*)\}/g, (whole, part: string) => parts[part as NamePart] ?? whole);
