import type { ShownCodes } from '@inkavo/core/colour/proxyCodes';
import type { SmallPicture } from '@inkavo/core/fields/smallPicture';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { BakedOp } from '@inkavo/core/program/baked';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import type { Part } from '@inkavo/core/program/part';
import type { Planes } from '@inkavo/core/program/planes';
import type { FileEnds } from '@inkavo/core/scopes/statistics';

/** The visible part of the picture, in shares of its size. */
export type View = Part;
export const WHOLE: View = { x: 0, y: 0, width: 1, height: 1 };

/** Whether a part of the picture contains another. */
export const within = (a: View, b: View): boolean =>
  a.x >= b.x && a.y >= b.y && a.x + a.width <= b.x + b.width && a.y + a.height <= b.y + b.height;

/** Inputs for drawing a part of the picture. */
export type Slot = 'graded' | 'compared';
export const OVERLAYS = ['none', 'zones', 'clipping', 'region'] as const;
export type Overlay = (typeof OVERLAYS)[number];

/** Display options of the picture. */
export interface Look {
  slot: Slot;
  /** Left of this share of the width the comparison's reference is shown; null: no split. */
  split: number | null;
  /** Both whole pictures side by side, the reference on the left. */
  beside: boolean;
  overlay: Overlay;
  /** The region whose selection is shown. */
  region: string | null;
  /** During a drag, speed has priority over resolution. */
  quick: boolean;
}

/** Grey around two pictures side by side: 20 % of luma, like the page's own surround. */
export const SURROUND = 0.2;

export interface Size {
  width: number;
  height: number;
}

/** Synchronous on the main thread, asynchronous from a worker. */
type Soon<T> = T | Promise<T>;

/** How to interpret a video frame: its file, and the browser's decoding of proxies. */
export interface MovingFacts extends Pick<MediaFacts, 'range' | 'matrix'> {
  codes: ShownCodes;
}

/** Draws graded frames on a canvas. All arguments and results can be sent to a worker and back. */
export interface Renderer {
  /** Sets the ops of a grade, or of the comparison's reference; none: as recorded. May be packed, see `TablesSent`. */
  setOps(ops: readonly BakedOp[], slot?: Slot): void;
  /** Sets the planes of the drawn frame. */
  setPlanes(planes: Planes, slot?: Slot): void;
  /** Sets the code values at which the file is clipped. */
  setEnds(ends: FileEnds): void;
  /**
   * Sets a still frame: planes of 4:4:4 with 16 bits. The comparison uses the same one, until another is set for it.
   */
  setRest(buffer: ArrayBuffer, format: PlanarFormat, slot?: Slot): void;
  /** Sets a finer picture of a part of the still frame, in the same format; it stays until the next frame. */
  setDetail(buffer: ArrayBuffer, format: PlanarFormat, part: View, slot?: Slot): void;
  /** Sets the current frame of a proxy's video, as the browser shows it. */
  setMoving(image: ImageBitmap, facts: MovingFacts): void;
  /**
   * The video frame averaged over the cells from which planes of a file of this size are made; null if there is none.
   */
  smallMoving(facts: Pick<MediaFacts, 'width' | 'height' | 'matrix'>): Soon<SmallPicture | null>;
  /**
   * Draws the current state at `size` pixels: graded, and left of a split the comparison's reference. Returns whether a
   * finer picture of the part was available.
   */
  draw(kind: 'rest' | 'moving', view: View, look: Look, size: Size): Soon<'detail' | 'whole'>;
  /** The canvas as a PNG file. */
  capture(): Promise<Blob>;
  dispose(): void;
}

/** A canvas as a PNG file. */
export function canvasFile(canvas: HTMLCanvasElement | OffscreenCanvas): Promise<Blob> {
  if ('convertToBlob' in canvas) return canvas.convertToBlob({ type: 'image/png' });
  return new Promise((resolve, reject) =>
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error('This picture cannot be kept.'))), 'image/png'),
  );
}
