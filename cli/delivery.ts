import { extname } from 'node:path';
import {
  ASPECTS,
  CODECS,
  DELIVERY_INFO,
  deliverySchema,
  EFFORTS,
  FITS,
  type Codec,
  type Delivery,
} from '@inkavo/core/model/delivery';
import { hardwareEncoders } from '@inkavo/media/export/hardwareEncoders';
import { CallError, numberFrom, wholeNumber } from './call';

type Options = Record<string, string | undefined>;

/** Export settings. */
export const DELIVERY_OPTIONS = [
  'codec',
  'quality',
  'megabits',
  'effort',
  'lines',
  'aspect',
  'fit',
  'rate',
  'sound',
  'colour',
] as const;
export const DELIVERY_USAGE = `[--codec ${CODECS.join('|')}] [--quality 8–40] [--megabits N] [--effort ${EFFORTS.join('|')}] [--lines N] [--aspect ${ASPECTS.join('|')}] [--fit ${FITS.join('|')}] [--rate N] [--sound kept|off] [--colour standard|hlg]`;

function oneOf<T extends string>(text: string | undefined, name: string, values: readonly T[]): T | undefined {
  if (text === undefined) return undefined;
  const found = values.find((v) => v === text);
  if (!found) throw new CallError(`--${name} is one of ${values.join(', ')}.`);
  return found;
}

/** The delivery from the options; without a codec, `codec`. */
export function deliveryOf(options: Options, codec: Codec): Delivery {
  const rate = numberFrom(options.rate, 'rate', 1, 240);
  return deliverySchema.parse({
    codec: oneOf(options.codec, 'codec', CODECS) ?? codec,
    quality: wholeNumber(options.quality, 'quality', 8, 40),
    megabits: numberFrom(options.megabits, 'megabits', 0.5, 400),
    effort: oneOf(options.effort, 'effort', EFFORTS),
    lines: wholeNumber(options.lines, 'lines', 120, 4320),
    aspect: oneOf(options.aspect, 'aspect', ASPECTS),
    fit: oneOf(options.fit, 'fit', FITS),
    rate: rate === undefined ? undefined : { num: Math.round(rate * 1000), den: 1000 },
    sound: oneOf(options.sound, 'sound', ['kept', 'off']),
    colour: oneOf(options.colour, 'colour', ['standard', 'hlg']),
  });
}

/** Throws a {@link CallError} if a hardware encoder is requested and there is none for the codec. */
export async function mustEncode({ codec, effort }: Delivery): Promise<void> {
  if (effort === 'fast' && !(await hardwareEncoders()).has(codec))
    throw new CallError(`No hardware encoder of this machine encodes ${DELIVERY_INFO[codec].title}.`);
}

/** The delivery from the options for one output; without a codec, the one for its extension. */
export function deliveryFor(options: Options, output: string): Delivery {
  const ending = extname(output).slice(1);
  const wanted = { mkv: 'ffv1', mov: 'vc3' } as const satisfies Record<string, Codec>;
  const delivery = deliveryOf(options, wanted[ending as keyof typeof wanted] ?? 'h264');
  const { extension, title } = DELIVERY_INFO[delivery.codec];
  if (ending !== extension) throw new CallError(`${title} goes into a .${extension} file.`);
  return delivery;
}
