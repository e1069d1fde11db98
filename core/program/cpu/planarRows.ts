import { codeScale, inverseMatrix, LUMA } from '../../colour/ycbcr';
import { roundings } from './dither';
import { chromaHeight, chromaWidth, type PlanarFormat, type PlanarPicture } from './planar';
import type { Line, RowExports } from './rowCapacity';

/** Horizontal chroma siting: one sample per pixel, on even columns, or centred between two. */
const acrossOf = (f: PlanarFormat): number => (f.chroma === '444' ? 0 : f.chromaSite === 'left' ? 1 : 2);

/** Converts rows of planar pictures in the kernel's memory to lines of R'G'B' and back. */
export class PlanarRows {
  private readonly dithers: readonly [rounded: Float32Array, dithered: Float32Array];

  /** `added`: address of eight rows of eight rounding offsets. */
  constructor(
    private readonly code: RowExports,
    private readonly lines: Record<Line, number>,
    private readonly added: number,
  ) {
    this.dithers = [roundings(false), roundings(true)];
  }

  /** The rounding offsets at `added` for these two formats. */
  roundingsFor(input: PlanarFormat, output: PlanarFormat): Float32Array {
    return this.dithers[output.depth < input.depth ? 1 : 0];
  }

  /** Reads a row of a picture into the lines of red, green and blue. */
  read({ format, y: luma, cb, cr }: PlanarPicture, y: number): void {
    const { code, lines } = this;
    const { yOffset, yScale, cOffset, cScale } = codeScale(format.depth, format.range);
    const { rv, gu, gv, bu } = inverseMatrix(format.matrix);
    const bytes = luma.BYTES_PER_ELEMENT;
    const wide = bytes - 1;
    const cw = chromaWidth(format);
    const halved = format.chroma === '420';
    const near = halved ? y >> 1 : y;
    const wanted = !halved ? y : (y & 1) === 0 ? near - 1 : near + 1;
    const far = Math.min(chromaHeight(format) - 1, Math.max(0, wanted));
    const row = (plane: typeof cb, k: number): number => plane.byteOffset + k * cw * bytes;
    for (const [plane, line] of [
      [cb, lines.u],
      [cr, lines.v],
    ] as const)
      code.chromaLine(row(plane, near), row(plane, far), wide, cw, halved ? 0.75 : 1, cOffset, 1 / cScale, line);
    const { width } = format;
    const { r, g, b, u, v } = lines;
    const at = luma.byteOffset + y * width * bytes;
    code.toRgb(at, wide, width, yOffset, 1 / yScale, u, v, acrossOf(format), rv, gu, gv, bu, r, g, b);
  }

  /** Writes the lines to a row of a picture; chroma of two rows is written with the second. Rows must come in order. */
  write({ format, y: luma, cb, cr }: PlanarPicture, y: number): void {
    const { code, lines } = this;
    const { width, height, chroma } = format;
    const { yOffset, yScale, cOffset, cScale, max } = codeScale(format.depth, format.range);
    const [kr, kg, kb] = LUMA[format.matrix];
    const bytes = luma.BYTES_PER_ELEMENT;
    const wide = bytes - 1;
    const halved = chroma === '420';
    const second = halved && (y & 1) === 1;
    const at = luma.byteOffset + y * width * bytes;
    const added = this.added + 32 * (y & 7);
    const [ku, kv] = [0.5 / (1 - kb), 0.5 / (1 - kr)];
    const { r, g, b, outU, outV } = lines;
    code.fromRgb(
      ...([r, g, b, width, kr, kg, kb, yScale, yOffset, added, at, wide] as const),
      ...([outU, outV, ku, kv, second ? 1 : 0] as const),
    );
    if (halved && !second && y < height - 1) return;
    const row = (halved ? y >> 1 : y) * chromaWidth(format) * bytes;
    for (const [line, plane] of [
      [outU, cb],
      [outV, cr],
    ] as const)
      code.chromaOut(line, width, acrossOf(format), cScale, cOffset, max, plane.byteOffset + row, wide);
  }
}
