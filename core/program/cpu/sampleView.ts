import type { Part } from '../part';

/** R'G'B' of a frame or of a part of one (width × height × 3). */
export interface Source {
  rgb: Float32Array;
  width: number;
  height: number;
  /** The part of the frame that it holds. */
  part: Part;
}

/** Within this distance of a sample no interpolation takes place: at 1:1 pixels stay exact. */
const EXACT = 0.004;

/** The two samples enclosing each of `count` pixels, and the interpolation weight. */
function places(from: number, span: number, count: number, part: { from: number; span: number; samples: number }) {
  const low = new Int32Array(count);
  const high = new Int32Array(count);
  const down = new Float32Array(count);
  let exact = true;
  for (let i = 0; i < count; i += 1) {
    const at = ((from + ((i + 0.5) / count) * span - part.from) / part.span) * part.samples - 0.5;
    const whole = Math.floor(at + EXACT);
    const f = Math.max(0, at - whole);
    low[i] = Math.min(part.samples - 1, Math.max(0, whole));
    high[i] = Math.min(part.samples - 1, Math.max(0, whole + 1));
    down[i] = f < EXACT ? 0 : f;
    exact &&= down[i] === 0;
  }
  return { low, high, down, exact };
}

/**
 * A view of a frame, `width` × `height` pixels: R'G'B' (width × height × 3), bilinear, clamped at the edges. May return
 * the source's own samples: do not modify them.
 */
export function sampleView(source: Source, view: Part, width: number, height: number): Float32Array {
  const { rgb, part } = source;
  const x = places(view.x, view.width, width, { from: part.x, span: part.width, samples: source.width });
  const y = places(view.y, view.height, height, { from: part.y, span: part.height, samples: source.height });
  const whole = x.exact && y.exact && width === source.width && height === source.height;
  if (whole && x.low[0] === 0 && y.low[0] === 0) return rgb;
  const out = new Float32Array(width * height * 3);
  const inRow = x.exact && x.low[width - 1] - x.low[0] === width - 1;
  for (let row = 0, o = 0; row < height; row += 1) {
    const [top, bottom] = [y.low[row] * source.width, y.high[row] * source.width];
    if (y.exact && inRow) {
      out.set(rgb.subarray(3 * (top + x.low[0]), 3 * (top + x.low[0] + width)), o);
      o += 3 * width;
      continue;
    }
    const fy = y.down[row];
    for (let column = 0; column < width; column += 1) {
      const fx = x.down[column];
      const a = 3 * (top + x.low[column]);
      const b = 3 * (top + x.high[column]);
      const c = 3 * (bottom + x.low[column]);
      const d = 3 * (bottom + x.high[column]);
      for (let k = 0; k < 3; k += 1, o += 1) {
        const upper = rgb[a + k] + fx * (rgb[b + k] - rgb[a + k]);
        const lower = rgb[c + k] + fx * (rgb[d + k] - rgb[c + k]);
        out[o] = upper + fy * (lower - upper);
      }
    }
  }
  return out;
}
