import { codeScale, inverseMatrix, LUMA, type MatrixName, type RangeName } from '../../colour/ycbcr';
import { roundings } from './dither';

/** Sample layout of a planar Y'CbCr picture. */
export interface PlanarFormat {
  width: number;
  height: number;
  /** Bits per sample. 8: one byte; above: two bytes, little endian, in the low bits. */
  depth: number;
  chroma: '420' | '422' | '444';
  range: RangeName;
  matrix: MatrixName;
  chromaSite: 'left' | 'center';
}

export type Samples = Uint8Array | Uint16Array;

/** A picture as three planes over one buffer: Y', Cb, Cr. */
export interface PlanarPicture {
  format: PlanarFormat;
  y: Samples;
  cb: Samples;
  cr: Samples;
}

export const chromaWidth = (f: PlanarFormat): number => (f.chroma === '444' ? f.width : (f.width + 1) >> 1);
export const chromaHeight = (f: PlanarFormat): number => (f.chroma === '420' ? (f.height + 1) >> 1 : f.height);

/** Bytes of one picture. */
export function pictureBytes(f: PlanarFormat): number {
  const samples = f.width * f.height + 2 * chromaWidth(f) * chromaHeight(f);
  return f.depth === 8 ? samples : samples * 2;
}

/** The three planes of a picture over a buffer, without copying. `offset` in bytes, even. */
export function planesOver(buffer: ArrayBufferLike, format: PlanarFormat, offset = 0): PlanarPicture {
  const ySize = format.width * format.height;
  const cSize = chromaWidth(format) * chromaHeight(format);
  const make = (from: number, count: number): Samples =>
    format.depth === 8
      ? new Uint8Array(buffer, offset + from, count)
      : new Uint16Array(buffer, offset + 2 * from, count);
  return { format, y: make(0, ySize), cb: make(ySize, cSize), cr: make(ySize + cSize, cSize) };
}

/**
 * Reads rows of a picture as R'G'B' (0 = reference black, 1 = white, not clipped). Chroma is interpolated linearly
 * according to its siting: horizontally co-sited with even columns ("left") or centred, vertically centred.
 */
export class RowReader {
  private readonly scale;
  private readonly inverse;
  private readonly cw: number;
  private readonly cb: Float32Array;
  private readonly cr: Float32Array;

  constructor(private readonly picture: PlanarPicture) {
    const { format } = picture;
    this.scale = codeScale(format.depth, format.range);
    this.inverse = inverseMatrix(format.matrix);
    this.cw = chromaWidth(format);
    this.cb = new Float32Array(this.cw);
    this.cr = new Float32Array(this.cw);
  }

  /** Writes 3 × width values of row y to `out`. */
  read(y: number, out: Float32Array): void {
    const { format, y: luma } = this.picture;
    const { yOffset, yScale } = this.scale;
    const { rv, gu, gv, bu } = this.inverse;
    this.chromaRow(y);
    const { cb, cr } = this;
    const base = y * format.width;
    const last = this.cw - 1;
    const ky = 1 / yScale;
    for (let x = 0, o = 0; x < format.width; x += 1, o += 3) {
      let u: number;
      let v: number;
      if (format.chroma === '444') {
        u = cb[x];
        v = cr[x];
      } else {
        const i = x >> 1;
        if (format.chromaSite === 'left') {
          if ((x & 1) === 0) {
            u = cb[i];
            v = cr[i];
          } else {
            const j = i < last ? i + 1 : i;
            u = (cb[i] + cb[j]) * 0.5;
            v = (cr[i] + cr[j]) * 0.5;
          }
        } else {
          const j = (x & 1) === 0 ? Math.max(0, i - 1) : Math.min(last, i + 1);
          u = cb[i] * 0.75 + cb[j] * 0.25;
          v = cr[i] * 0.75 + cr[j] * 0.25;
        }
      }
      const l = (luma[base + x] - yOffset) * ky;
      out[o] = l + rv * v;
      out[o + 1] = l + gu * u + gv * v;
      out[o + 2] = l + bu * u;
    }
  }

  private chromaRow(y: number): void {
    const { format, cb, cr } = this.picture;
    const { cOffset, cScale } = this.scale;
    const k = 1 / cScale;
    const { cw } = this;
    if (format.chroma !== '420') {
      for (let i = 0, at = y * cw; i < cw; i += 1, at += 1) {
        this.cb[i] = (cb[at] - cOffset) * k;
        this.cr[i] = (cr[at] - cOffset) * k;
      }
      return;
    }
    const near = y >> 1;
    const far = Math.min(chromaHeight(format) - 1, Math.max(0, (y & 1) === 0 ? near - 1 : near + 1));
    for (let i = 0, a = near * cw, b = far * cw; i < cw; i += 1, a += 1, b += 1) {
      this.cb[i] = (cb[a] * 0.75 + cb[b] * 0.25 - cOffset) * k;
      this.cr[i] = (cr[a] * 0.75 + cr[b] * 0.25 - cOffset) * k;
    }
  }
}

/**
 * Writes rows of R'G'B' into a planar picture; clips to 0–1 and averages chroma to its sample positions. `dither`:
 * dithers luma instead of rounding, for pictures reduced in depth.
 */
export class RowWriter {
  private readonly scale;
  private readonly weights;
  private readonly cw: number;
  private readonly cb: Float32Array;
  private readonly cr: Float32Array;
  private readonly added: Float32Array;

  constructor(
    private readonly picture: PlanarPicture,
    dither = false,
  ) {
    const { format } = picture;
    this.added = roundings(dither);
    this.scale = codeScale(format.depth, format.range);
    this.weights = LUMA[format.matrix];
    this.cw = chromaWidth(format);
    this.cb = new Float32Array(format.width);
    this.cr = new Float32Array(format.width);
  }

  /** Takes 3 × width values of row y. For 4:2:0, rows must come in order, even row first. */
  write(y: number, rgb: Float32Array): void {
    const { format, y: luma } = this.picture;
    const { yOffset, yScale } = this.scale;
    const [kr, kg, kb] = this.weights;
    const ku = 0.5 / (1 - kb);
    const kv = 0.5 / (1 - kr);
    const { width } = format;
    const second = format.chroma === '420' && (y & 1) === 1;
    const { cb, cr, added } = this;
    const base = y * width;
    const row = 8 * (y & 7);
    for (let x = 0, o = 0; x < width; x += 1, o += 3) {
      let r = rgb[o];
      let g = rgb[o + 1];
      let b = rgb[o + 2];
      r = r < 0 ? 0 : r > 1 ? 1 : r;
      g = g < 0 ? 0 : g > 1 ? 1 : g;
      b = b < 0 ? 0 : b > 1 ? 1 : b;
      const l = kr * r + kg * g + kb * b;
      luma[base + x] = l * yScale + yOffset + added[row + (x & 7)];
      const u = (b - l) * ku;
      const v = (r - l) * kv;
      if (second) {
        cb[x] = (cb[x] + u) * 0.5;
        cr[x] = (cr[x] + v) * 0.5;
      } else {
        cb[x] = u;
        cr[x] = v;
      }
    }
    const lastRow = y === format.height - 1;
    if (format.chroma !== '420' || second || lastRow) this.flush(format.chroma === '420' ? y >> 1 : y);
  }

  private flush(row: number): void {
    const { format } = this.picture;
    const at = row * this.cw;
    this.put(this.picture.cb, this.cb, at, format);
    this.put(this.picture.cr, this.cr, at, format);
  }

  private put(plane: Samples, line: Float32Array, at: number, format: PlanarFormat): void {
    const { cOffset, cScale, max } = this.scale;
    const last = format.width - 1;
    for (let i = 0; i < this.cw; i += 1) {
      let value: number;
      if (format.chroma === '444') value = line[i];
      else {
        const x = 2 * i;
        const right = line[x < last ? x + 1 : x];
        value =
          format.chromaSite === 'left'
            ? 0.25 * line[x > 0 ? x - 1 : x] + 0.5 * line[x] + 0.25 * right
            : 0.5 * (line[x] + right);
      }
      const code = value * cScale + cOffset + 0.5;
      plane[at + i] = code > max ? max : code;
    }
  }
}
