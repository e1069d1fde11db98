import { z } from 'zod';
import type { MediaFacts } from './facts';
import { retimeSchema, type Retime } from './retime';

/** What can come out, by what it is for. VC-3 is SMPTE ST 2019-1: every frame by itself. */
export const CODECS = ['h264', 'h265', 'h265x8', 'av1', 'vc3', 'ffv1'] as const;
export type Codec = (typeof CODECS)[number];

interface CodecInfo {
  title: string;
  use: string;
  extension: 'mp4' | 'mov' | 'mkv';
  /** Bits a sample; null: as the file has them. */
  depth: 8 | 10 | null;
  /** Whether it has a quality to be set. */
  quality: boolean;
}

/** How the formats are offered. */
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

/** Shapes that a picture may be brought to; the last three are those of wide screens (common practice). */
export const ASPECTS = ['16:9', '9:16', '1:1', '4:5', '2:1', '2.35:1', '2.39:1'] as const;
export type Aspect = (typeof ASPECTS)[number];
/** How it comes into one: cut to it; whole, with bars about it; cut, with bars that give the file its own shape back. */
export const FITS = ['crop', 'bars', 'inside'] as const;
/** How long the encoder looks for a smaller file of the same quality; `fast`: a hardware encoder of the machine. */
export const EFFORTS = ['fast', 'quick', 'even', 'careful'] as const;

/** What a name may be made of, in braces. */
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

/** What a delivery is encoded as. What is left out stays as the file has it. */
export const deliverySchema = z.object({
  codec: z.enum(CODECS),
  /** Constant quality, lower is better; ignored where a codec has none. */
  quality: z.number().int().min(8).max(40).default(18),
  /** Mean bitrate in Mbit/s; when given it takes the place of quality. */
  megabits: z.number().min(0.5).max(400).optional(),
  effort: z.enum(EFFORTS).default('quick'),
  /** Pixels of the shorter side; null: the file's. Never enlarged, unless `enlarge`. */
  lines: z.number().int().min(120).max(4320).nullable().default(null),
  enlarge: z.boolean().default(false),
  /** Null: the file's. */
  aspect: z.enum(ASPECTS).nullable().default(null),
  fit: z.enum(FITS).default('crop'),
  /** Where a crop lies, 0–1 along the side that is cut; 0.5 is the middle. */
  place: z.number().min(0).max(1).default(0.5),
  /** Null: the clip's own. */
  rate: rateSchema.nullable().default(null),
  sound: z.enum(['kept', 'off']).default('kept'),
  /** Of a recording in hybrid log-gamma: as standard video, or as it came, with 10 bits. */
  colour: z.enum(['standard', 'hlg']).default('standard'),
  /** The file's name, with parts in braces; see {@link NAME_PARTS}. */
  name: namePattern.default('{clip}'),
});
export type Delivery = z.infer<typeof deliverySchema>;
export type DeliveryRequest = z.input<typeof deliverySchema>;

/** Bits a pixel at quality 18, for footage with some noise (common practice); six steps of quality halve them. */
const BITS_A_PIXEL: Partial<Record<Codec, number>> = { h264: 0.2, h265: 0.14, h265x8: 0.13, av1: 0.1 };

/** Mbit/s of a delivery that is encoded at a bitrate: as it says, or what its quality comes to. */
export function megabitsOf(
  { codec, quality, megabits }: Pick<Delivery, 'codec' | 'quality' | 'megabits'>,
  pixelsPerSecond: number,
): number {
  const bits = (BITS_A_PIXEL[codec] ?? 0.2) * 2 ** ((18 - quality) / 6) * pixelsPerSecond;
  return megabits ?? Math.min(400, Math.max(0.5, Number((bits / 1e6).toPrecision(2))));
}

export interface Framing {
  /** The part of the picture that is taken, in its own pixels. */
  crop: { x: number; y: number; width: number; height: number };
  /** The size that part is brought to. */
  scaled: { width: number; height: number };
  /** The whole picture, with bars about the part where they are wanted. */
  width: number;
  height: number;
}

const even = (n: number): number => Math.max(2, 2 * Math.round(n / 2));
const evenDown = (n: number): number => Math.max(2, 2 * Math.floor(n / 2));

/** What of a picture is taken, and at which size it is delivered. Sides are even, except where nothing is changed. */
export function framing(
  { width, height }: Pick<MediaFacts, 'width' | 'height'>,
  { lines, enlarge, aspect, fit, place }: Pick<Delivery, 'lines' | 'enlarge' | 'aspect' | 'fit' | 'place'>,
): Framing {
  const own = { x: 0, y: 0, width, height };
  if (lines === null && aspect === null) return { crop: own, scaled: { width, height }, width, height };
  const [a, b] = aspect ? aspect.split(':').map(Number) : [width, height];
  const shape = a / b;
  const wider = shape > width / height;
  // Cut, the picture has the new shape within the old one; between bars, around it.
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

/** The size in which a delivery leaves: codecs of subsampled chroma leave out a last odd column or row. */
export function deliveredSize(
  facts: Pick<MediaFacts, 'width' | 'height'>,
  delivery: Delivery,
): { width: number; height: number } {
  const { width, height } = framing(facts, delivery);
  return delivery.codec === 'ffv1' ? { width, height } : { width: width - (width % 2), height: height - (height % 2) };
}

/** Whether a codec holds hybrid log-gamma: 8 bits would show steps (ITU-R BT.2100 has 10 and 12). */
export const holdsHlg = (codec: Codec): boolean => DELIVERY_INFO[codec].depth !== 8;

/** A clip's speed with what a delivery says of rate and sound; undefined where each frame is delivered as recorded. */
export function deliveredRetime(retime: Retime | null | undefined, { rate, sound }: Delivery): Retime | undefined {
  if (!retime && rate === null && sound === 'kept') return undefined;
  const own = retime ?? retimeSchema.parse({ factor: 1 });
  return { ...own, rate: rate ?? own.rate, sound: sound === 'off' ? 'goes' : own.sound };
}

/** A file's name without its ending, from a pattern. */
export const nameFrom = (pattern: string, parts: Record<NamePart, string>): string =>
  pattern.replace(/\{([^}]*)\}/g, (whole, part: string) => parts[part as NamePart] ?? whole);
