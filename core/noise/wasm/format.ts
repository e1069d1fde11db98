/** The pictures' format, and the address of the working memory. */

/** Block size in pixels for motion vectors. */
export const BLOCK: i32 = 16;

export let width: i32 = 0;
export let height: i32 = 0;
export let chromaWidth: i32 = 0;
export let chromaHeight: i32 = 0;
/** Pixels of luma per pixel of chroma, across and down. */
export let sx: i32 = 1;
export let sy: i32 = 1;
/** Two bytes per sample. */
export let wide: bool = false;
/** Bits above eight. */
export let shift: i32 = 0;
export let scratch: usize = 0;

/** The pictures' format, and the address of SCRATCH_BYTES of free memory. */
export function setNoiseFormat(w: i32, h: i32, cw: i32, ch: i32, depth: i32, at: usize): void {
  width = w;
  height = h;
  chromaWidth = cw;
  chromaHeight = ch;
  sx = cw < w ? 2 : 1;
  sy = ch < h ? 2 : 1;
  wide = depth > 8;
  shift = depth - 8;
  scratch = at;
}

// @ts-ignore: decorator
@inline
export function sample(at: usize, i: i32): f32 {
  return wide ? <f32>load<u16>(at + (<usize>i << 1)) : <f32>load<u8>(at + <usize>i);
}

// @ts-ignore: decorator
@inline
export function planeAt(picture: usize, index: i32): usize {
  const samples = (index > 0 ? width * height : 0) + (index > 1 ? chromaWidth * chromaHeight : 0);
  return picture + (<usize>samples << (wide ? 1 : 0));
}
