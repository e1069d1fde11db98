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

/** Names under which common software implementations of WebGL report themselves. */
const COMPUTED = /swiftshader|llvmpipe|softpipe|software|basic render/i;

/** Whether an offscreen canvas has such a context; `fast`: not emulated by the CPU. */
function hasContext(canvas: HTMLCanvasElement | OffscreenCanvas, kind: '2d' | 'webgl2', fast = false): boolean {
  const context = canvas.getContext(kind, { failIfMajorPerformanceCaveat: fast }) as RenderingContext | null;
  if (!context || !('getExtension' in context)) return context !== null;
  const named = context.getExtension('WEBGL_debug_renderer_info');
  const name = String(context.getParameter(named ? named.UNMASKED_RENDERER_WEBGL : context.RENDERER));
  context.getExtension('WEBGL_lose_context')?.loseContext();
  return !fast || !COMPUTED.test(name);
}

/** Whether pictures can be drawn in a worker: older browsers lack contexts there. */
function drawsInWorkers(kind: '2d' | 'webgl2'): boolean {
  try {
    return hasContext(new OffscreenCanvas(1, 1), kind);
  } catch {
    return false;
  }
}

/** A browser capability, queried once per page. */
const once = (ask: () => boolean): (() => boolean) => {
  let answer: boolean | undefined;
  return () => (answer ??= ask());
};
/** Whether a GPU draws WebGL2. */
const hasGpu = once(() => hasContext(document.createElement('canvas'), 'webgl2', true));
/** Whether this browser has WebGL2 at all, even emulated. Creating a context takes tens of milliseconds. */
export const hasWebgl = once(() => hasGpu() || hasContext(document.createElement('canvas'), 'webgl2'));

/** Whether to draw with the GPU: if it exists, and is chosen or fast. */
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

/** The picture on the screen, drawn in a worker if the browser supports that. Settings take effect in order. */
export class ScreenPicture {
  private readonly renderer: ReturnType<typeof makeRenderer>;
  private readonly gpu = gpuDraws();
  private readonly tables = new TablesSent();
  /** Full size of the picture in pixels. */
  readonly size = { width: 1, height: 1 };
  /** Width in pixels of the still frame, and the parts with finer pictures. */
  private restWidth = 0;
  private readonly detail: Record<Slot, View | null> = { graded: null, compared: null };

  constructor(
    canvas: HTMLCanvasElement,
    private readonly on: {
      /** A picture has been drawn. */
      drawn(kind: Kind, shown: 'detail' | 'whole'): void;
      /** Pictures cannot be drawn, and why. */
      trouble(error: Error): void;
      /** A lost WebGL context was restored: everything has to be uploaded again. */
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

  /** Sets a still frame, see `Renderer.setRest`; takes ownership of the buffer. */
  setRest(buffer: ArrayBuffer, format: PlanarFormat, slot: Slot = 'graded'): void {
    this.detail[slot] = null;
    this.restWidth = format.width;
    this.send((r) => r.setRest(transfer(buffer, [buffer]), format, slot));
  }

  /** Sets a finer picture of a part of the still frame; takes ownership of the buffer. */
  setDetail(buffer: ArrayBuffer, format: PlanarFormat, part: View, slot: Slot): void {
    this.detail[slot] = part;
    this.send((r) => r.setDetail(transfer(buffer, [buffer]), format, part, slot));
  }

  /** Sets the current frame of a proxy's video. False: it shows none. */
  async setMoving(video: HTMLVideoElement, facts: Pick<MediaFacts, 'range' | 'matrix'>): Promise<boolean> {
    if (video.readyState < 2) return false;
    // The frame may be gone: another one is being sought, or the clip was closed.
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

  /** Whether a part of a file `across` pixels wide could be shown finer: the screen has more pixels than are loaded. */
  wantsDetail(view: View, across: number, slot: Slot): boolean {
    const coarse = across > this.restWidth && this.size.width / view.width > this.restWidth + 1;
    const detail = this.detail[slot];
    return coarse && !(detail && within(view, detail));
  }

  /** Draws the latest state; while one picture is being drawn, intermediate states are skipped. */
  readonly draw = coalesce(async (kind: Kind, view: View, look: Look) => {
    const { width, height } = this.size;
    const shown = await (await this.renderer).draw(kind, view, look, { width, height });
    this.on.drawn(kind, shown);
  });

  /** The picture on the screen as a PNG file. */
  async capture(): Promise<Blob> {
    await this.draw.settled();
    return (await this.renderer).capture();
  }

  dispose(): void {
    this.renderer.then((r) => r.dispose()).catch(() => undefined);
  }
}
