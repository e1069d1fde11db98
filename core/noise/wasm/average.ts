/** A frame averaged with its motion-compensated neighbours; `reduce.ts` is the reference implementation. */
import { BLOCK, chromaHeight, chromaWidth, height, planeAt, sample, scratch, shift, sx, sy, wide, width } from './format';
import { c0, c1, c2, c3, copySquare, cubic, ROW, SQUARE } from './squares';

const PATCH: i32 = 2;
const CHROMA_PATCH: i32 = 1;

// @ts-ignore: decorator
@inline
function across(at: usize, k0: v128, k1: v128, k2: v128, k3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(k0, v128.load(at)), f32x4.mul(k1, v128.load(at, 4))),
    f32x4.add(f32x4.mul(k2, v128.load(at, 8)), f32x4.mul(k3, v128.load(at, 12))),
  );
}

/**
 * Four columns of a square of samples: displaced by a subpixel offset if `parts` (`raw` then has a margin of one
 * pixel), and the squared differences from the frame's own, summed over 2 × `patch` + 1 rows. If `add`, these are added
 * to `between`.
 */
// @ts-ignore: decorator
@inline
function movedColumns(
  raw: usize, own: usize, rows: i32, patch: i32, parts: bool, moved: usize, between: usize, add: bool,
  k0: v128, k1: v128, k2: v128, k3: v128, m0: v128, m1: v128, m2: v128, m3: v128,
): void {
  let h0 = f32x4.splat(0);
  let h1 = h0;
  let h2 = h0;
  let q0 = h0;
  let q1 = h0;
  let q2 = h0;
  let q3 = h0;
  if (parts) {
    h0 = across(raw, k0, k1, k2, k3);
    h1 = across(raw + ROW, k0, k1, k2, k3);
    h2 = across(raw + 2 * ROW, k0, k1, k2, k3);
    raw += 3 * ROW;
  }
  const first = 2 * patch;
  for (let j = 0; j < rows + 2 * patch; j += 1) {
    let v = h0;
    if (parts) {
      const h3 = across(raw, k0, k1, k2, k3);
      v = f32x4.add(
        f32x4.add(f32x4.mul(m0, h0), f32x4.mul(m1, h1)),
        f32x4.add(f32x4.mul(m2, h2), f32x4.mul(m3, h3)),
      );
      h0 = h1;
      h1 = h2;
      h2 = h3;
      v128.store(moved, v);
      moved += ROW;
    } else v = v128.load(raw);
    raw += ROW;
    const d = f32x4.sub(v128.load(own), v);
    own += ROW;
    const s = f32x4.mul(d, d);
    if (j >= first) {
      let sum = f32x4.add(f32x4.add(q0, q1), s);
      if (patch === 2) sum = f32x4.add(sum, f32x4.add(q2, q3));
      v128.store(between, add ? f32x4.add(v128.load(between), sum) : sum);
      between += ROW;
    }
    if (patch === 2) {
      q0 = q1;
      q1 = q2;
      q2 = q3;
      q3 = s;
    } else {
      q0 = q1;
      q1 = s;
    }
  }
}

/**
 * Fetches a square of another frame's plane displaced by a vector, padded by `patch` on every side of `columns` ×
 * `rows` at (x, y), into `moved`, and compares it with the frame's own: squared differences summed over rows go into
 * `between`.
 */
// @ts-ignore: decorator
@inline
function hold(
  plane: usize, w: i32, h: i32, x: i32, y: i32, columns: i32, rows: i32, patch: i32, dx: f32, dy: f32,
  own: usize, moved: usize, between: usize, add: bool,
): void {
  const ix = <i32>Math.floor(dx);
  const iy = <i32>Math.floor(dy);
  const fx = dx - <f32>ix;
  const fy = dy - <f32>iy;
  x += ix - patch;
  y += iy - patch;
  const wider = columns + 2 * patch;
  const higher = rows + 2 * patch;
  const bytes = <usize>wider << 2;
  if (fx === 0 && fy === 0) {
    const none = f32x4.splat(0);
    copySquare(plane, w, h, x, y, wider, higher, moved);
    for (let i: usize = 0; i < bytes; i += 16)
      movedColumns(moved + i, own + i, rows, patch, false, 0, between + i, add, none, none, none, none, none, none, none, none);
    return;
  }
  copySquare(plane, w, h, x - 1, y - 1, wider + 3, higher + 3, scratch);
  cubic(fx);
  const k0 = f32x4.splat(c0);
  const k1 = f32x4.splat(c1);
  const k2 = f32x4.splat(c2);
  const k3 = f32x4.splat(c3);
  cubic(fy);
  const m0 = f32x4.splat(c0);
  const m1 = f32x4.splat(c1);
  const m2 = f32x4.splat(c2);
  const m3 = f32x4.splat(c3);
  for (let i: usize = 0; i < bytes; i += 16)
    movedColumns(scratch + i, own + i, rows, patch, true, moved + i, between + i, add, k0, k1, k2, k3, m0, m1, m2, m3);
}

/** Four sums over patches, from sums over their rows. */
// @ts-ignore: decorator
@inline
function patchSum(at: usize, patch: i32): v128 {
  const three = f32x4.add(f32x4.add(v128.load(at), v128.load(at, 4)), v128.load(at, 8));
  return patch === 1 ? three : f32x4.add(three, f32x4.add(v128.load(at, 12), v128.load(at, 16)));
}

/** Weights of another frame's four pixels, by their patches. */
// @ts-ignore: decorator
@inline
function taken(between: usize, patch: i32, share: v128, perVariance: usize): v128 {
  const d = f32x4.mul(f32x4.mul(patchSum(between, patch), share), v128.load(perVariance));
  const x = f32x4.pmax(f32x4.splat(0), f32x4.sub(d, f32x4.splat(2)));
  const v = f32x4.pmax(f32x4.splat(0), f32x4.sub(f32x4.splat(1), f32x4.mul(x, f32x4.splat(0.25))));
  const square = f32x4.mul(v, v);
  return f32x4.mul(square, square);
}

// @ts-ignore: decorator
@inline
function addTo(at: usize, v: v128): void {
  v128.store(at, f32x4.add(v128.load(at), v));
}

/** Accumulates another frame's luma square. */
function addLuma(between: usize, perVariance: usize, moved: usize, columns: i32, rows: i32, sums: usize, weights: usize): void {
  const share = f32x4.splat(1.0 / 25.0);
  const bytes = <usize>columns << 2;
  moved += <usize>PATCH * ROW + (<usize>PATCH << 2);
  for (let j: usize = 0; j < <usize>rows * ROW; j += ROW)
    for (let i = j; i < j + bytes; i += 16) {
      const w = taken(between + i, PATCH, share, perVariance + i);
      addTo(weights + i, w);
      addTo(sums + i, f32x4.mul(w, v128.load(moved + i)));
    }
}

/** Accumulates another frame's two chroma squares. */
function addChroma(
  between: usize, perVariance: usize, movedB: usize, movedR: usize, columns: i32, rows: i32,
  sumsB: usize, sumsR: usize, weights: usize,
): void {
  const share = f32x4.splat(1.0 / 18.0);
  const bytes = <usize>columns << 2;
  const inner = <usize>CHROMA_PATCH * ROW + (<usize>CHROMA_PATCH << 2);
  movedB += inner;
  movedR += inner;
  for (let j: usize = 0; j < <usize>rows * ROW; j += ROW)
    for (let i = j; i < j + bytes; i += 16) {
      const w = taken(between + i, CHROMA_PATCH, share, perVariance + i);
      addTo(weights + i, w);
      addTo(sumsB + i, f32x4.mul(w, v128.load(movedB + i)));
      addTo(sumsR + i, f32x4.mul(w, v128.load(movedR + i)));
    }
}

/** Initialises the sums with the frame's own square. */
// @ts-ignore: decorator
@inline
function begin(own: usize, patch: i32, columns: i32, rows: i32, sums: usize, weights: usize): void {
  const inner = <usize>patch * ROW + (<usize>patch << 2);
  for (let j = 0; j < rows; j += 1)
    for (let i = 0; i < columns; i += 4) {
      const at = <usize>j * ROW + (<usize>i << 2);
      v128.store(sums + at, v128.load(own + at + inner));
      v128.store(weights + at, f32x4.splat(1));
    }
}

function put(sums: usize, weights: usize, plane: usize, w: i32, x: i32, y: i32, columns: i32, rows: i32): void {
  const most = f32x4.splat(<f32>((256 << shift) - 1));
  for (let j = 0; j < rows; j += 1) {
    let to = plane + (<usize>((y + j) * w + x) << (wide ? 1 : 0));
    for (let i = 0; i < columns; i += 4) {
      const at = <usize>j * ROW + (<usize>i << 2);
      const mean = f32x4.add(f32x4.div(v128.load(sums + at), v128.load(weights + at)), f32x4.splat(0.5));
      const held = f32x4.pmin(most, f32x4.pmax(f32x4.splat(0), f32x4.floor(mean)));
      const four = i32x4.trunc_sat_f32x4_u(held);
      const words = i16x8.narrow_i32x4_u(four, four);
      if (i + 4 > columns) {
        // The picture's right edge lies within these four.
        v128.store(scratch, words);
        for (let k = 0; k < columns - i; k += 1) {
          const v = load<u16>(scratch + (<usize>k << 1));
          if (wide) store<u16>(to + (<usize>k << 1), v);
          else store<u8>(to + <usize>k, <u8>v);
        }
      } else if (wide) v128.store64_lane(to, words, 0);
      else v128.store32_lane(to, i8x16.narrow_i16x8_u(words, words), 0);
      to += wide ? 8 : 4;
    }
  }
}

/** 1 / variance for each pixel, by its luma; `sx`, `sy`: pixels of luma per pixel of the plane. */
function perVariances(
  variances: usize, frame: usize, x: i32, y: i32, columns: i32, rows: i32, sx: i32, sy: i32, to: usize,
): void {
  for (let j = 0; j < rows; j += 1) {
    const row = (y + j * sy) * width + x;
    let out = to + <usize>j * ROW;
    for (let i = 0; i < columns; i += 1, out += 4) {
      const luma = <usize>(<i32>sample(frame, row + i * sx) >> shift);
      store<f32>(out, load<f32>(variances + (luma << 2)));
    }
  }
}

/**
 * A frame averaged with `count` others. `others` and `motions`: addresses (int32) of pictures and of their vectors.
 * `lumaVariance`, `chromaVariance`: 1 / variance of the noise by luma 0–255, as floats; 0: the plane stays unchanged.
 */
export function average(
  frame: usize,
  count: i32,
  others: usize,
  motions: usize,
  lumaVariance: usize,
  chromaVariance: usize,
  out: usize,
): void {
  const blocks = (width + BLOCK - 1) / BLOCK;
  const blockRows = (height + BLOCK - 1) / BLOCK;
  // The first two squares belong to the interpolation.
  const ownY = scratch + 2 * SQUARE;
  const ownB = ownY + SQUARE;
  const ownR = ownB + SQUARE;
  const moved = ownR + SQUARE;
  const movedB = moved + SQUARE;
  const between = movedB + SQUARE;
  const perY = between + SQUARE;
  const perC = perY + SQUARE;
  const sums = perC + SQUARE;
  const sumsB = sums + SQUARE;
  const sumsR = sumsB + SQUARE;
  const weights = sumsR + SQUARE;
  const weightsC = weights + SQUARE;
  const planeB = planeAt(frame, 1);
  const planeR = planeAt(frame, 2);
  for (let block = 0; block < blocks * blockRows; block += 1) {
    const x = (block % blocks) * BLOCK;
    const y = (block / blocks) * BLOCK;
    const w = min(BLOCK, width - x);
    const h = min(BLOCK, height - y);
    const cx = x / sx;
    const cy = y / sy;
    const cw = (w + sx - 1) / sx;
    const ch = (h + sy - 1) / sy;
    copySquare(frame, width, height, x - PATCH, y - PATCH, w + 2 * PATCH, h + 2 * PATCH, ownY);
    copySquare(planeB, chromaWidth, chromaHeight, cx - 1, cy - 1, cw + 2, ch + 2, ownB);
    copySquare(planeR, chromaWidth, chromaHeight, cx - 1, cy - 1, cw + 2, ch + 2, ownR);
    begin(ownY, PATCH, w, h, sums, weights);
    begin(ownB, CHROMA_PATCH, cw, ch, sumsB, weightsC);
    begin(ownR, CHROMA_PATCH, cw, ch, sumsR, weightsC);
    if (lumaVariance) perVariances(lumaVariance, frame, x, y, w, h, 1, 1, perY);
    if (chromaVariance) perVariances(chromaVariance, frame, x, y, cw, ch, sx, sy, perC);
    for (let k = 0; k < count; k += 1) {
      const other = <usize>load<i32>(others + (<usize>k << 2));
      const vector = <usize>load<i32>(motions + (<usize>k << 2)) + (<usize>block << 3);
      const dx = load<f32>(vector);
      const dy = load<f32>(vector, 4);
      if (lumaVariance) {
        hold(other, width, height, x, y, w, h, PATCH, dx, dy, ownY, moved, between, false);
        addLuma(between, perY, moved, w, h, sums, weights);
      }
      if (chromaVariance) {
        const ux = dx / <f32>sx;
        const uy = dy / <f32>sy;
        const otherB = planeAt(other, 1);
        const otherR = planeAt(other, 2);
        hold(otherB, chromaWidth, chromaHeight, cx, cy, cw, ch, CHROMA_PATCH, ux, uy, ownB, movedB, between, false);
        hold(otherR, chromaWidth, chromaHeight, cx, cy, cw, ch, CHROMA_PATCH, ux, uy, ownR, moved, between, true);
        addChroma(between, perC, movedB, moved, cw, ch, sumsB, sumsR, weightsC);
      }
    }
    put(sums, weights, out, width, x, y, w, h);
    put(sumsB, weightsC, planeAt(out, 1), chromaWidth, cx, cy, cw, ch);
    put(sumsR, weightsC, planeAt(out, 2), chromaWidth, cx, cy, cw, ch);
  }
}
