import type { Vec3 } from '@inkavo/core/colour/matrix';
import { shownToFile } from '@inkavo/core/colour/proxyCodes';
import type { SmallPicture } from '@inkavo/core/fields/smallPicture';
import { WHOLE, type MovingFacts, type View } from './look';

export type CanvasLike = HTMLCanvasElement | OffscreenCanvas;

/** Number of samples along a cell's edge used for its mean. */
const SAMPLES = 4;

/** An offscreen canvas. */
export function canvasOf(width: number, height: number): CanvasLike {
  if (typeof OffscreenCanvas !== 'undefined') return new OffscreenCanvas(width, height);
  return Object.assign(document.createElement('canvas'), { width, height });
}

/**
 * The two enclosing source pixels (as a share of all) for each of several samples of a part, and the interpolation
 * weight.
 */
function places(from: number, length: number, samples: number, pixels: number) {
  const [before, after, share] = [new Int32Array(samples), new Int32Array(samples), new Float32Array(samples)];
  for (let i = 0; i < samples; i += 1) {
    const at = (from + (length * (i + 0.5)) / samples) * pixels - 0.5;
    const whole = Math.floor(at);
    before[i] = Math.min(pixels - 1, Math.max(0, whole));
    after[i] = Math.min(pixels - 1, Math.max(0, whole + 1));
    share[i] = at - whole;
  }
  return { before, after, share };
}

/**
 * The current frame of a proxy's video: the browser's own conversion (`core/colour/proxyCodes.ts`) is undone, to
 * recover the file's code values including super-whites.
 */
export class MovingFrame {
  private image: ImageBitmap | undefined;
  private data: ImageData | undefined;
  private readonly scratch = canvasOf(1, 1);
  private readonly context = this.scratch.getContext('2d', { willReadFrequently: true }) as
    CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;
  /** See `shownToFile`. */
  private factors: number[] = [];

  /** The current frame. */
  get frame(): object | undefined {
    return this.image;
  }

  /** Takes ownership of a frame. */
  set(image: ImageBitmap, { codes, ...facts }: MovingFacts): void {
    this.image?.close();
    this.image = image;
    this.data = undefined;
    this.factors = shownToFile(codes, facts);
  }

  /**
   * A view of the frame: R'G'B' code values (width × height × 3). Interpolated as on a GPU, but without rounding to 8
   * bits, which the grade would make visible.
   */
  pixels(view: View, width: number, height: number): Float32Array {
    const { data, width: across, height: down } = this.bytes();
    const out = new Float32Array(width * height * 3);
    const [rr, rg, rb, r0, gr, gg, gb, g0, br, bg, bb, b0] = this.factors;
    const { before, after, share } = places(view.x, view.width, width, across);
    const rows = places(view.y, view.height, height, down);
    // A row of the frame interpolated vertically, then horizontally.
    const row = new Float32Array(across * 4);
    for (let y = 0, o = 0; y < height; y += 1) {
      const above = rows.before[y] * across * 4;
      const below = rows.after[y] * across * 4;
      const part = rows.share[y];
      for (let i = 0; i < row.length; i += 1) row[i] = data[above + i] + part * (data[below + i] - data[above + i]);
      for (let x = 0; x < width; x += 1, o += 3) {
        const i = before[x] * 4;
        const j = after[x] * 4;
        const f = share[x];
        const r = row[i] + f * (row[j] - row[i]);
        const g = row[i + 1] + f * (row[j + 1] - row[i + 1]);
        const b = row[i + 2] + f * (row[j + 2] - row[i + 2]);
        out[o] = rr * r + rg * g + rb * b + r0;
        out[o + 1] = gr * r + gg * g + gb * b + g0;
        out[o + 2] = br * r + bg * g + bb * b + b0;
      }
    }
    return out;
  }

  /** The frame's own pixels. */
  private bytes(): ImageData {
    if (this.data) return this.data;
    const { scratch, context, image } = this;
    const { width, height } = image!;
    if (scratch.width !== width || scratch.height !== height) Object.assign(scratch, { width, height });
    context.drawImage(image!, 0, 0);
    return (this.data = context.getImageData(0, 0, width, height));
  }

  /** The frame averaged over this many cells across and down; null if there is none. */
  small(cells: readonly [across: number, down: number], [kr, kg, kb]: Readonly<Vec3>): SmallPicture | null {
    if (!this.image) return null;
    const [width, height] = cells.map(Math.ceil);
    const [fineWidth, fineHeight] = [width * SAMPLES, height * SAMPLES];
    // The last cells may extend beyond the frame, whose edge is repeated.
    const [across, down] = cells.map((n) => Math.round(n * SAMPLES));
    const fine = this.pixels(WHOLE, across, down);
    const code = new Float32Array(width * height * 3);
    for (let y = 0; y < fineHeight; y += 1)
      for (let x = 0; x < fineWidth; x += 1) {
        const from = 3 * (Math.min(down - 1, y) * across + Math.min(across - 1, x));
        const to = 3 * (Math.floor(y / SAMPLES) * width + Math.floor(x / SAMPLES));
        for (let c = 0; c < 3; c += 1) code[to + c] += fine[from + c] / SAMPLES ** 2;
      }
    const luma = Float32Array.from(
      { length: width * height },
      (_, i) => kr * code[3 * i] + kg * code[3 * i + 1] + kb * code[3 * i + 2],
    );
    return { width, height, cells: [cells[0], cells[1]], code, luma };
  }

  close(): void {
    this.image?.close();
    this.image = undefined;
  }
}
