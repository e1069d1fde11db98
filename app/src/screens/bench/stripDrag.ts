/** Distance from the strip, in pixels, at which a drag becomes finer. */
const NEAR = 24;
/** Distance at which it is finest. */
const FAR = 240;
/** Frames per pixel at the finest. */
const FINEST = 0.5;

interface Point {
  x: number;
  y: number;
  width: number;
  height: number;
}

/**
 * A drag along the strip: on the strip, the position follows the finger; with vertical distance it becomes finer from
 * there on, down to two pixels per frame for any clip length.
 */
export class StripDrag {
  private x = 0;
  /** Unrounded and unclamped. */
  private frame = 0;

  /** Pointer down at a position that corresponds to a frame. */
  begin({ x }: Point, frame: number): void {
    this.x = x;
    this.frame = frame;
  }

  /**
   * `span`: number of frames on the strip. Returns the new position, and how many times finer than the strip; null: not
   * finer.
   */
  move({ x, y, width, height }: Point, span: number): { frame: number; finer: number | null } {
    const frames = span / Math.max(1, width);
    const away = Math.max(0, -y, y - height);
    const share = Math.min(1, Math.max(0, (away - NEAR) / (FAR - NEAR)));
    const finer = frames > FINEST ? (frames / FINEST) ** share : null;
    this.frame += ((x - this.x) * frames) / (finer ?? 1);
    this.x = x;
    return { frame: this.frame, finer };
  }
}
