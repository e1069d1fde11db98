import { proxy, transfer, type Remote } from 'comlink';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { SmallPicture } from '@inkavo/core/fields/smallPicture';
import type { BakedOp } from '@inkavo/core/program/baked';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import type { Planes } from '@inkavo/core/program/planes';
import type { FileEnds } from '@inkavo/core/scopes/statistics';
import { coalesce } from '../coalesce';
import { TablesSent } from '../sentTables';
import { bitmapOf, shownCodes } from '../frames/shownCodes';
import { checkOps } from './gradeTextures';
import { useDrawing } from '../../state/drawing';
import { CpuPicture } from './cpuPicture';
import { GpuPicture } from './gpuPicture';
import { within, type Look, type Renderer, type Slot, type View } from './look';
import { pictureWorker } from '../workers';

type Kind = 'rest' | 'moving';

/** What common libraries that compute WebGL call themselves. */
const COMPUTED = /swiftshader|llvmpipe|softpipe|software|basic render/i;

/** Whether a canvas of its own has such a context; `fast`: one that is not computed by the CPU. */
function hasContext(canvas: HTMLCanvasElement | OffscreenCanvas, kind: '2d' | 'webgl2', fast = false): boolean {
  const context = canvas.getContext(kind, { failIfMajorPerformanceCaveat: fast }) as RenderingContext | null;
  if (!context || !('getExtension' in context)) return context !== null;
  const named = context.getExtension('WEBGL_debug_renderer_info');
  const name = String(context.getParameter(named ? named.UNMASKED_RENDERER_WEBGL : context.RENDERER));
  context.getExtension('WEBGL_lose_context')?.loseContext();
  return !fast || !COMPUTED.test(name);
}

/** Whether pictures can be drawn away from the page: an old browser has a canvas for workers, but not for its graphics. */
function drawsInWorkers(kind: '2d' | 'webgl2'): boolean {
  try {
    return hasContext(new OffscreenCanvas(1, 1), kind);
  } catch {
    return false;
  }
}

/** A question to the browser that is asked once for the page. */
const once = (ask: () => boolean): (() => boolean) => {
  let answer: boolean | undefined;
  return () => (answer ??= ask());
};
/** Whether a GPU draws WebGL2 here. */
const hasGpu = once(() => hasContext(document.createElement('canvas'), 'webgl2', true));
/** Whether this browser has WebGL2 at all, be it computed by the CPU. A context takes tens of milliseconds to make. */
export const hasWebgl = once(() => hasGpu() || hasContext(document.createElement('canvas'), 'webgl2'));

/** Whether the GPU draws: where it is there, and is wanted or fast. */
function gpuDraws(): boolean {
  const { drawing } = useDrawing.getState();
  return drawing === 'auto' ? hasGpu() : drawing === 'gpu' && hasWebgl();
}

async function makeRenderer(
  canvas: HTMLCanvasElement,
  gpu: boolean,
  onRestored: () => void,
): Promise<Remote<Renderer> | Renderer> {
  if (!drawsInWorkers(gpu ? 'webgl2' : '2d')) return gpu ? new GpuPicture(canvas, onRestored) : new CpuPicture(canvas);
  const own = canvas.transferControlToOffscreen();
  const remote = pictureWorker();
  return gpu
    ? new remote.GpuPicture(transfer(own, [own]), proxy(onRestored))
    : new remote.CpuPicture(transfer(own, [own]));
}

/**
 * The picture on the screen, drawn by a worker where the browser can do that. What is set comes into effect in the order
 * in which it was set.
 */
export class ScreenPicture {
  private readonly renderer: ReturnType<typeof makeRenderer>;
  private readonly gpu = gpuDraws();
  private readonly tables = new TablesSent();
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
    canvas.dataset.drawnBy = this.gpu ? 'gpu' : 'cpu';
    this.renderer = makeRenderer(canvas, this.gpu, on.restored);
    this.renderer.catch(on.trouble);
  }

  private send(what: (renderer: Remote<Renderer> | Renderer) => unknown): void {
    this.renderer.then(what).catch((error: Error) => this.on.trouble(error));
  }

  /** See `Renderer.setOps`. Throws for more than the GPU can draw. */
  setOps(ops: readonly BakedOp[], slot: Slot = 'graded'): void {
    if (this.gpu) checkOps(ops);
    this.send((r) => r.setOps(this.tables.pack(ops), slot));
  }

  setPlanes(planes: Planes, slot: Slot = 'graded'): void {
    this.send((r) => r.setPlanes(planes, slot));
  }

  setEnds(ends: FileEnds): void {
    this.send((r) => r.setEnds(ends));
  }

  /** Takes a frame at rest, see `Renderer.setRest`; the buffer is given away. */
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
    const image = await bitmapOf(video).catch(() => null);
    if (!image) return false;
    const { range, matrix } = facts;
    this.send((r) => r.setMoving(transfer(image, [image]), { range, matrix, codes: shownCodes() }));
    return true;
  }

  /** See `Renderer.smallMoving`. */
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
  readonly draw = coalesce(async (kind: Kind, view: View, look: Look) => {
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
