import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { gunzip, gzip } from 'node:zlib';
import { z } from 'zod';
import { pictureBytes, planesOver, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import type { Library } from './config';
import { keepFile } from './keepFile';

const [pack, unpack] = [promisify(gzip), promisify(gunzip)];

const formatSchema = z.object({
  width: z.number().int().positive(),
  height: z.number().int().positive(),
  depth: z.literal(16),
  chroma: z.literal('444'),
  range: z.enum(['limited', 'full']),
  matrix: z.enum(['bt601', 'bt709', 'bt2020']),
  chromaSite: z.enum(['left', 'center']),
});
/**
 * Bits stored of 16: 10, as in typical files. Compressed, a frame of a 10-bit file then takes 39 % of the bytes, of
 * 8-bit ones 84 and 88 % (measured on three clips of the demo; averaging leaves fractions).
 */
const STEP = 1 << 6;

/**
 * Small pictures, 16 bits and 4:4:4, as files: a line of JSON with their format, then compressed samples. Damaged files
 * count as missing.
 */
export class PictureFiles {
  constructor(private readonly library: Pick<Library, 'picture'>) {}

  async get(key: string): Promise<PlanarPicture | undefined> {
    try {
      const file = await unpack(await readFile(this.path(key)));
      const end = file.indexOf(10);
      const format = formatSchema.parse(JSON.parse(file.toString('utf8', 0, end)));
      const samples = new Uint8Array(file.subarray(end + 1)).buffer;
      return samples.byteLength === pictureBytes(format) ? planesOver(samples, format) : undefined;
    } catch {
      return undefined;
    }
  }

  /** Stores a picture and returns it as stored. With a full disk it is only recomputed later. */
  keep(key: string, picture: PlanarPicture): PlanarPicture {
    const { format } = picture;
    const samples = new Uint16Array(pictureBytes(format) / 2);
    [picture.y, picture.cb, picture.cr].reduce((at, plane) => {
      for (let i = 0; i < plane.length; i += 1)
        samples[at + i] = Math.min(0xffff - (STEP - 1), Math.round(plane[i] / STEP) * STEP);
      return at + plane.length;
    }, 0);
    const header = Buffer.from(`${JSON.stringify(format)}\n`);
    const file = Buffer.concat([header, Buffer.from(samples.buffer)]);
    void pack(file, { level: 1 })
      .then((packed) => keepFile(this.path(key), packed))
      .catch(() => undefined);
    return planesOver(samples.buffer, format);
  }

  private path = (key: string): string => this.library.picture(createHash('sha256').update(key).digest('hex'));
}
