import { LUMA } from '@inkavo/core/colour/ycbcr';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { cellOf, type SmallPicture } from '@inkavo/core/fields/smallPicture';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { Baked, BakedOp } from '@inkavo/core/program/baked';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { overlay } from '@inkavo/core/scopes/overlay';
import { planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { sampleView, type Source } from '@inkavo/core/program/cpu/sampleView';
import { rimOf } from '@inkavo/core/program/part';
import type { Planes } from '@inkavo/core/program/planes';
import type { FileEnds } from '@inkavo/core/scopes/statistics';
import { TablesReceived } from '../sentTables';
import { gradingReady } from '../worker/grading';
import {
  canvasFile,
  SURROUND,
  WHOLE,
  within,
  type Look,
  type MovingFacts,
  type Renderer,
  type Size,
  type Slot,
  type View,
} from './look';
import { MovingFrame, type CanvasLike } from './movingFrame';
import { PartGrader } from './partGrader';

type Kind = 'rest' | 'moving';

/** A still frame, and a finer picture of a part of it. */
interface Rest {
  whole: Source | null;
  finer: Source | null;
}

/** A rectangle of the canvas in pixels, from the upper left. */
interface Box extends Size {
  x: number;
  y: number;
}

/** Pictures that take longer are drawn with a quarter of the pixels during a drag: 50 pictures per second. */
const SLOW_MS = 20;
/**
 * Maximum margin in pixels around the visible part for steps that read neighbours; beyond it, fewer pixels are drawn.
 * The rows buffered for one step take 18 MB then, for a picture 965 pixels wide.
 */
const MOST_RIM = 256;

/**
 * Draws graded frames on a canvas with the CPU backend, using the exports' kernel: for browsers without a GPU, where
 * WebGL2 is missing or emulated by the CPU and several times as slow.
 */
export class CpuPicture implements Renderer {
  private readonly context: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;
  private readonly slots: Record<Slot, Baked> = {
    graded: { ops: [], planes: [] },
    compared: { ops: [], planes: [] },
  };
  /** The comparison uses the same frame, unless another one was set. */
  private readonly rests: Record<Slot, Rest> = {
    graded: { whole: null, finer: null },
    compared: { whole: null, finer: null },
  };
  private readonly graders: Record<Slot, PartGrader> = { graded: new PartGrader(), compared: new PartGrader() };
  private readonly tables = new TablesReceived();
  private readonly moving = new MovingFrame();
  private weights: Readonly<Vec3> = LUMA.bt709;
  private ends: FileEnds = { low: -Infinity, high: Infinity };
  /** Milliseconds per pixel of the last picture. */
  private pace = 0;

  /** Throws an Error when the browser provides no canvas context. */
  constructor(private readonly canvas: CanvasLike) {
    const context = canvas.getContext('2d', { alpha: false }) as typeof this.context | null;
    if (!context) throw new Error('This browser cannot draw pictures: it has no canvas.');
    this.context = context;
  }

  setOps(ops: readonly BakedOp[], slot: Slot = 'graded'): void {
    this.slots[slot] = { ...this.slots[slot], ops: this.tables.unpack(ops) };
  }

  setPlanes(planes: Planes, slot: Slot = 'graded'): void {
    this.slots[slot] = { ...this.slots[slot], planes };
  }

  setEnds(ends: FileEnds): void {
    this.ends = ends;
  }

  setRest(buffer: ArrayBuffer, format: PlanarFormat, slot: Slot = 'graded'): void {
    if (slot === 'graded') this.rests.compared = { whole: null, finer: null };
    this.rests[slot] = { whole: sourceOf(buffer, format, WHOLE), finer: null };
    this.weights = LUMA[format.matrix];
  }

  setDetail(buffer: ArrayBuffer, format: PlanarFormat, part: View, slot: Slot = 'graded'): void {
    this.rests[slot].finer = sourceOf(buffer, format, part);
  }

  setMoving(image: ImageBitmap, facts: MovingFacts): void {
    this.moving.set(image, facts);
    this.weights = LUMA[facts.matrix];
  }

  smallMoving({ width, height, matrix }: Pick<MediaFacts, 'width' | 'height' | 'matrix'>): SmallPicture | null {
    const cell = cellOf(width, height);
    return this.moving.small([width / cell, height / cell], LUMA[matrix]);
  }

  async draw(kind: Kind, view: View, look: Look, size: Size): Promise<'detail' | 'whole'> {
    await gradingReady;
    const { finer, whole } = this.restOf(look.slot);
    const shown = kind === 'rest' && finer && within(view, finer.part) ? 'detail' : 'whole';
    if (!(kind === 'rest' ? whole : this.moving.frame)) return shown;
    const reduction = this.reductionFor(view, look, size);
    const [width, height] = [Math.ceil(size.width / reduction), Math.ceil(size.height / reduction)];
    const { canvas } = this;
    if (canvas.width !== width) canvas.width = width;
    if (canvas.height !== height) canvas.height = height;
    const started = performance.now();
    this.drawSize(kind, view, look, width, height);
    this.pace = (performance.now() - started) / (width * height);
    return shown;
  }

  capture(): Promise<Blob> {
    return canvasFile(this.canvas);
  }

  dispose(): void {
    this.moving.close();
  }

  private restOf(slot: Slot): Rest {
    return this.rests[slot].whole ? this.rests[slot] : this.rests.graded;
  }

  /** Edge of the square that each drawn pixel covers. */
  private reductionFor(view: View, { slot, quick }: Look, { width, height }: Size): number {
    const rim = rimOf(this.slots[slot].ops, width / view.width);
    return Math.max(Math.ceil(rim / MOST_RIM), quick && this.pace * width * height > SLOW_MS ? 2 : 1);
  }

  private drawSize(kind: Kind, view: View, look: Look, width: number, height: number): void {
    const { slot, split, beside } = look;
    const compared: Look = { ...look, overlay: look.overlay === 'region' ? 'none' : look.overlay };
    if (beside) {
      const half = Math.floor(width / 2);
      const tall = Math.ceil(height / 2);
      const y = height - Math.floor(height / 4) - tall;
      const { context } = this;
      const grey = Math.round(255 * SURROUND);
      context.fillStyle = `rgb(${grey} ${grey} ${grey})`;
      context.fillRect(0, 0, width, height);
      this.drawPart(kind, view, 'compared', compared, { x: 0, y, width: half, height: tall });
      this.drawPart(kind, view, slot, look, { x: half, y, width: width - half, height: tall });
      return;
    }
    const edge = split === null ? 0 : Math.round(split * width);
    const columns = (from: number, to: number): [View, Box] => [
      { ...view, x: view.x + (from / width) * view.width, width: ((to - from) / width) * view.width },
      { x: from, y: 0, width: to - from, height },
    ];
    if (edge > 0) {
      const [part, box] = columns(0, edge);
      this.drawPart(kind, part, 'compared', compared, box);
    }
    if (edge < width) {
      const [part, box] = columns(edge, width);
      this.drawPart(kind, part, slot, look, box);
    }
  }

  /** Draws a view into a box of the canvas. */
  private drawPart(kind: Kind, view: View, slot: Slot, look: Look, box: Box): void {
    const { ops, planes } = this.slots[slot];
    const [across, down] = [box.width / view.width, box.height / view.height];
    // Steps that read neighbours need a margin around the visible part.
    const rim = rimOf(ops, across);
    const [left, right] = [view.x, 1 - view.x - view.width].map((share) => rimIn(rim, share * across));
    const [top, bottom] = [view.y, 1 - view.y - view.height].map((share) => rimIn(rim, share * down));
    const [width, height] = [box.width + left + right, box.height + top + bottom];
    const around = { x: view.x - left / across, y: view.y - top / down, width: width / across, height: height / down };
    const rest = kind === 'rest' ? this.restSource(slot, view) : undefined;
    const grader = this.graders[slot];
    const code = grader.pixels(rest ?? this.moving.frame!, around, width, height, () =>
      rest ? sampleView(rest, around, width, height) : this.moving.pixels(around, width, height),
    );
    const image = this.context.createImageData(width, height);
    const { weights } = this;
    if (look.overlay === 'none') grader.grade({ ops, planes }, image.data, weights);
    else {
      const op = ops.findIndex(({ mix }) => mix && mix.region === look.region);
      const amounts = new Float32Array(width * height).fill(1);
      const graded = new Float32Array(code.length);
      grader.grade({ ops, planes }, graded, weights, op < 0 ? undefined : { op, amounts });
      for (let i = 0, o = 0; i < code.length; i += 3, o += 4) {
        for (let c = 0; c < 3; c += 1) image.data[o + c] = 255 * graded[i + c];
        image.data[o + 3] = 255;
      }
      const most = op < 0 ? 1 : Math.max(1e-3, ops[op].mix!.strength);
      const drawn = { code, graded, ends: this.ends, chosen: amounts.map((a) => a / most) };
      const place = { left: box.x - left, top: box.y - top, height: this.canvas.height };
      overlay(look.overlay, drawn, image.data, width, place);
    }
    this.context.putImageData(image, box.x - left, box.y - top, left, top, box.width, box.height);
  }

  private restSource(slot: Slot, view: View): Source {
    const { whole, finer } = this.restOf(slot);
    return finer && within(view, finer.part) ? finer : whole!;
  }
}

/** Width of a margin limited to the frame. */
const rimIn = (rim: number, left: number): number => Math.min(rim, Math.max(0, Math.ceil(left)));

function sourceOf(buffer: ArrayBuffer, format: PlanarFormat, part: View): Source {
  const rgb = pictureToRgb(undefined, planesOver(buffer, format));
  return { rgb, width: format.width, height: format.height, part };
}
