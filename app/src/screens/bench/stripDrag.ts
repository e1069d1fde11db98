/** Above or below the strip a finger is this far away before it goes finer, in pixels. */
const NEAR = 24;
/** So far away it goes finest. */
const FAR = 240;
/** At the finest, frames to a pixel. */
const FINEST = 0.5;

interface Point {
  x: number;
  y: number;
  width: number;
  height: number;
}

/**
 * A drag along the strip: under a finger on it lies the place that it goes to; the further away the finger is, up or down, the
 * finer it goes from there on, down to two pixels for a frame however long the clip is.
 */
export class StripDrag {
  private x = 0;
  /** Not rounded, and beyond the ends as far as the finger is. */
  private frame = 0;

  /** The finger is down at a place that stands for a frame. */
  begin({ x }: Point, frame: number): void {
    this.x = x;
    this.frame = frame;
  }

  /** `span`: from the first to the last frame on the strip. Where it goes to, and how many times finer than on the strip; null: it is fine enough there. */
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
