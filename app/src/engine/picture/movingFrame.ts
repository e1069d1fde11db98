import type { Vec3 } from '@inkavo/core/colour/matrix';
import { codeScale, inverseMatrix } from '@inkavo/core/colour/ycbcr';
import type { SmallPicture } from '@inkavo/core/fields/smallPicture';
import type { MediaFacts } from '@inkavo/core/model/facts';
import { WHOLE, type View } from './look';

export type CanvasLike = HTMLCanvasElement | OffscreenCanvas;

/** Samples along a cell's edge that its mean is taken of. */
const SAMPLES = 4;

/** A canvas that is never shown. */
function canvasOf(width: number, height: number): CanvasLike {
  if (typeof OffscreenCanvas !== 'undefined') return new OffscreenCanvas(width, height);
  return Object.assign(document.createElement('canvas'), { width, height });
}

/**
 * The frame that a video of the proxy shows now: a browser's own conversion of the proxy, which carries the file's code values
 * under a full-range BT.709 label. The conversion is undone, which gives the code values back, super-whites included.
 */
export class MovingFrame {
  private image: ImageBitmap | undefined;
  private readonly scratch = canvasOf(1, 1);
  private readonly context = this.scratch.getContext('2d', { willReadFrequently: true }) as
    CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;
  /** The file's R'G'B' of the browser's bytes: nine factors and three numbers that are added. */
  private factors: number[] = [];

  /** The frame that there is. */
  get frame(): object | undefined {
    return this.image;
  }

  /** Takes a frame over. */
  set(image: ImageBitmap, { range, matrix }: Pick<MediaFacts, 'range' | 'matrix'>): void {
    this.image?.close();
    this.image = image;
    const y = codeScale(8, range);
    const m = inverseMatrix(matrix);
    const file = (rgb: Vec3): Vec3 => {
      const luma = 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2];
      const [cb, cr] = [(rgb[2] - luma) / 1.8556, (rgb[0] - luma) / 1.5748].map(
        (c) => (c + 128 - y.cOffset) / y.cScale,
      );
      const l = (luma - y.yOffset) / y.yScale;
      return [l + m.rv * cr, l + m.gu * cb + m.gv * cr, l + m.bu * cb];
    };
    const black = file([0, 0, 0]);
    const [r, g, b] = (
      [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ] as Vec3[]
    ).map(file);
    this.factors = [0, 1, 2].flatMap((c) => [r[c] - black[c], g[c] - black[c], b[c] - black[c]]).concat(black);
  }

  /** A view of the frame: R'G'B' code values (width × height × 3). */
  pixels(view: View, width: number, height: number): Float32Array {
    const { data } = this.bytes(view, width, height);
    const out = new Float32Array(width * height * 3);
    const [rr, rg, rb, gr, gg, gb, br, bg, bb, r0, g0, b0] = this.factors;
    for (let o = 0, i = 0; o < out.length; o += 3, i += 4) {
      const [r, g, b] = [data[i], data[i + 1], data[i + 2]];
      out[o] = rr * r + rg * g + rb * b + r0;
      out[o + 1] = gr * r + gg * g + gb * b + g0;
      out[o + 2] = br * r + bg * g + bb * b + b0;
    }
    return out;
  }

  private bytes(view: View, width: number, height: number): ImageData {
    const { scratch, context, image } = this;
    if (scratch.width !== width || scratch.height !== height) Object.assign(scratch, { width, height });
    context.imageSmoothingQuality = 'low';
    const [w, h] = [image!.width, image!.height];
    context.drawImage(image!, view.x * w, view.y * h, view.width * w, view.height * h, 0, 0, width, height);
    return context.getImageData(0, 0, width, height);
  }

  /** The frame averaged over cells, of which there are so many across and down; null: there is none. */
  small(cells: readonly [across: number, down: number], [kr, kg, kb]: Readonly<Vec3>): SmallPicture | null {
    if (!this.image) return null;
    const [width, height] = cells.map(Math.ceil);
    const [fineWidth, fineHeight] = [width * SAMPLES, height * SAMPLES];
    // The last cells may lie half beyond the frame, whose edge goes on.
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
