import { proxy, transfer, type Remote } from 'comlink';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { SmallPicture } from '@inkavo/core/fields/smallPicture';
import type { BakedOp } from '@inkavo/core/program/baked';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import type { Planes } from '@inkavo/core/program/planes';
import type { FileEnds } from '@inkavo/core/scopes/statistics';
import { latest } from './latest';
import { checkOps } from './gradeTextures';
import { PictureRenderer, within, type Look, type Slot, type View } from './picture';
import { pictureWorker } from './workers';

type Kind = 'rest' | 'moving';

/** Whether pictures can be drawn away from the page: an old browser has a canvas for workers, but not for its graphics. */
function drawsInWorkers(): boolean {
  try {
    return new OffscreenCanvas(1, 1).getContext('webgl2') !== null;
  } catch {
    return false;
  }
}

async function makeRenderer(
  canvas: HTMLCanvasElement,
  onRestored: () => void,
): Promise<Remote<PictureRenderer> | PictureRenderer> {
  if (!drawsInWorkers()) return new PictureRenderer(canvas, onRestored);
  const own = canvas.transferControlToOffscreen();
  return new (pictureWorker())(transfer(own, [own]), proxy(onRestored));
}

/**
 * The picture on the screen, drawn by a worker where the browser can do that. What is set comes into effect in the order
 * in which it was set.
 */
export class ScreenPicture {
  private readonly renderer: ReturnType<typeof makeRenderer>;
  /** The picture's whole size in pixels. */
  readonly size = { width: 1, height: 1 };
  /** Pixels across the frame at rest, and the parts that there are finer pictures of. */
  private restWidth = 0;
  private readonly detail: Record<Slot, View | null> = { graded: null, compared: null };

  constructor(
    canvas: HTMLCanvasElement,
    private readonly on: {
      /** A picture has been drawn. */
      drawn(kind: Kind, shown: 'detail' | 'whole'): void;
      /** There can be no picture, and why. */
      trouble(error: Error): void;
      /** The WebGL context was lost and is back: everything has to be uploaded again. */
      restored(): void;
    },
  ) {
    this.renderer = makeRenderer(canvas, on.restored);
    this.renderer.catch(on.trouble);
  }

  private send(what: (renderer: Remote<PictureRenderer> | PictureRenderer) => unknown): void {
    this.renderer.then(what).catch((error: Error) => this.on.trouble(error));
  }

  /** See `PictureRenderer.setOps`. Throws for too many. */
  setOps(ops: readonly BakedOp[], slot: Slot = 'graded'): void {
    checkOps(ops);
    this.send((r) => r.setOps(ops, slot));
  }

  setPlanes(planes: Planes, slot: Slot = 'graded'): void {
    this.send((r) => r.setPlanes(planes, slot));
  }

  setEnds(ends: FileEnds): void {
    this.send((r) => r.setEnds(ends));
  }

  /** Takes a frame at rest, see `PictureRenderer.setRest`; the buffer is given away. */
  setRest(buffer: ArrayBuffer, format: PlanarFormat, slot: Slot = 'graded'): void {
    this.detail[slot] = null;
    this.restWidth = format.width;
    this.send((r) => r.setRest(transfer(buffer, [buffer]), format, slot));
  }

  /** Takes a finer picture of a part of the frame at rest; the buffer is given away. */
  setDetail(buffer: ArrayBuffer, format: PlanarFormat, part: View, slot: Slot): void {
    this.detail[slot] = part;
    this.send((r) => r.setDetail(transfer(buffer, [buffer]), format, part, slot));
  }

  /** Takes the frame that a video of the proxy shows now. False: it shows none. */
  async setMoving(video: HTMLVideoElement, facts: Pick<MediaFacts, 'range' | 'matrix'>): Promise<boolean> {
    if (video.readyState < 2) return false;
    // Its frame may be gone by now: another one is being sought, or the clip was left.
    const image = await createImageBitmap(video, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' }).catch(
      () => null,
    );
    if (!image) return false;
    const { range, matrix } = facts;
    this.send((r) => r.setMoving(transfer(image, [image]), { range, matrix }));
    return true;
  }

  /** See `PictureRenderer.smallMoving`. */
  async smallMoving({ width, height, matrix }: MediaFacts): Promise<SmallPicture | null> {
    return (await this.renderer).smallMoving({ width, height, matrix });
  }

  /** Whether a part of a file `across` pixels wide could be finer: the screen has more pixels than there are. */
  wantsDetail(view: View, across: number, slot: Slot): boolean {
    const coarse = across > this.restWidth && this.size.width / view.width > this.restWidth + 1;
    const detail = this.detail[slot];
    return coarse && !(detail && within(view, detail));
  }

  /** Draws the newest look; while one picture is being drawn, looks that are out of date are left out. */
  readonly draw = latest(async (kind: Kind, view: View, look: Look) => {
    const { width, height } = this.size;
    const shown = await (await this.renderer).draw(kind, view, look, { width, height });
    this.on.drawn(kind, shown);
  });

  /** What is on the screen, as a PNG file. */
  async capture(): Promise<Blob> {
    await this.draw.settled();
    return (await this.renderer).capture();
  }

  dispose(): void {
    this.renderer.then((r) => r.dispose()).catch(() => undefined);
  }
}
