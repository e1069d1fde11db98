import type { ShownCodes } from '@inkavo/core/colour/proxyCodes';
import type { SmallPicture } from '@inkavo/core/fields/smallPicture';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { BakedOp } from '@inkavo/core/program/baked';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import type { Part } from '@inkavo/core/program/part';
import type { Planes } from '@inkavo/core/program/planes';
import type { FileEnds } from '@inkavo/core/scopes/statistics';

/** The part of the picture that is shown, in shares of its size. */
export type View = Part;
export const WHOLE: View = { x: 0, y: 0, width: 1, height: 1 };

/** Whether a part of the picture lies within another. */
export const within = (a: View, b: View): boolean =>
  a.x >= b.x && a.y >= b.y && a.x + a.width <= b.x + b.width && a.y + a.height <= b.y + b.height;

/** What a part of the picture is drawn through. */
export type Slot = 'graded' | 'compared';
export const OVERLAYS = ['none', 'zones', 'clipping', 'region'] as const;
export type Overlay = (typeof OVERLAYS)[number];

/** How the picture is looked at. */
export interface Look {
  slot: Slot;
  /** Left of this share of the width it is the picture that it is compared with; null: no split. */
  split: number | null;
  /** Both stand side by side, each whole, what it is compared with at the left. */
  beside: boolean;
  overlay: Overlay;
  /** The region whose choice is shown. */
  region: string | null;
  /** A finger is down: quick counts for more than fine. */
  quick: boolean;
}

/** Grey around two pictures side by side: 20 % of luma, as the page's own surround. */
export const SURROUND = 0.2;

export interface Size {
  width: number;
  height: number;
}

/** Comes at once on the page, later from a worker. */
type Soon<T> = T | Promise<T>;

/** How a moving frame is to be understood: its file, and what the browser makes of proxies. */
export interface MovingFacts extends Pick<MediaFacts, 'range' | 'matrix'> {
  codes: ShownCodes;
}

/** Draws frames through a grade on a canvas. Everything that it takes and gives can be sent to a worker and back. */
export interface Renderer {
  /** Takes the ops of a grade, or of what it is compared with; none: as recorded. Packed or not, see `TablesSent`. */
  setOps(ops: readonly BakedOp[], slot?: Slot): void;
  /** Takes the planes of the frame that is drawn. */
  setPlanes(planes: Planes, slot?: Slot): void;
  /** Takes the code values at which the file has lost detail. */
  setEnds(ends: FileEnds): void;
  /**
   * Takes a frame at rest: planes of 4:4:4 with 16 bits. What it is compared with is the same one, until another is set for
   * that.
   */
  setRest(buffer: ArrayBuffer, format: PlanarFormat, slot?: Slot): void;
  /** Takes a finer picture of a part of the frame at rest, of the same form; it stays until the next frame. */
  setDetail(buffer: ArrayBuffer, format: PlanarFormat, part: View, slot?: Slot): void;
  /** Takes the frame that a video of the proxy shows now, as the browser shows it. */
  setMoving(image: ImageBitmap, facts: MovingFacts): void;
  /** The moving frame averaged over the cells that planes of a file of this size are made from; null: there is none. */
  smallMoving(facts: Pick<MediaFacts, 'width' | 'height' | 'matrix'>): Soon<SmallPicture | null>;
  /**
   * Draws what was set last of its kind, `size` pixels large: through the grade, left of a split through what it is
   * compared with. Says whether a finer picture of the part was there.
   */
  draw(kind: 'rest' | 'moving', view: View, look: Look, size: Size): Soon<'detail' | 'whole'>;
  /** What is on the canvas, as a PNG file. */
  capture(): Promise<Blob>;
  dispose(): void;
}

/** What is on a canvas, as a PNG file. */
export function canvasFile(canvas: HTMLCanvasElement | OffscreenCanvas): Promise<Blob> {
  if ('convertToBlob' in canvas) return canvas.convertToBlob({ type: 'image/png' });
  return new Promise((resolve, reject) =>
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error('This picture cannot be kept.'))), 'image/png'),
  );
}
