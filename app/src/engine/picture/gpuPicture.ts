import { codeScale, inverseMatrix, LUMA, type CodeScale } from '@inkavo/core/colour/ycbcr';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { BakedOp } from '@inkavo/core/program/baked';
import { planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { TOLERANCE, type FileEnds } from '@inkavo/core/scopes/statistics';
import type { SmallPicture } from '@inkavo/core/fields/smallPicture';
import { cellOf } from '@inkavo/core/fields/smallPicture';
import type { Planes } from '@inkavo/core/program/planes';
import { type Structure } from '@inkavo/core/program/gpu/gradeText';
import { fromSmall, movingFragment, restFragment, shownRows, SMALL_FRAGMENT } from '@inkavo/core/program/gpu/shaders';
import { TablesReceived } from '../sentTables';
import { GradeTextures } from './gradeTextures';
import { link, texture } from './gl';
import {
  canvasFile,
  OVERLAYS,
  SURROUND,
  WHOLE,
  within,
  type Look,
  type MovingFacts,
  type Overlay,
  type Renderer,
  type Slot,
  type View,
} from './look';
import { Passes, type Box } from './passes';

/** A still frame as textures, and a finer picture of a part of it. */
interface RestTextures {
  whole: WebGLTexture;
  finer: WebGLTexture;
  /** The part for which a finer picture is loaded. */
  detail: View | null;
  /** A frame is loaded. */
  there: boolean;
}

/** Number of pictures timed initially, and the time above which drawing counts as slow. */
const TRIALS = 3;
const SLOW_MS = 8;

const FAR = 100;
const FRAME_UNIT = 0;

/** Uniforms that convert code values to R'G'B', and a video frame to code values. */
interface Scale {
  y: CodeScale;
  m: ReturnType<typeof inverseMatrix>;
  shown?: number[];
}

/**
 * Draws graded frames on a canvas with the GPU backend (WebGL2). It runs in a worker, so that the main thread never
 * waits: all arguments and results are transferable.
 */
export class GpuPicture implements Renderer {
  private readonly gl: WebGL2RenderingContext;
  private readonly programs = new Map<string, WebGLProgram>();
  /** The comparison uses the same frame, unless another one was set. */
  private rests!: Record<Slot, RestTextures>;
  private movingTexture!: WebGLTexture;
  private passes!: Passes;
  private slots!: Record<Slot, GradeTextures>;
  private small: { program: WebGLProgram; target: WebGLFramebuffer; texture: WebGLTexture } | undefined;
  private readonly tables = new TablesReceived();
  private readonly times: number[] = [];
  /** Code values at which the file is clipped. */
  private ends: FileEnds = { low: -Infinity, high: Infinity };
  private restScale: Scale | undefined;
  private movingScale: Scale | undefined;

  /**
   * `onRestored` is called after a lost WebGL context was restored: everything has to be uploaded again. Throws an
   * Error when the browser has no WebGL2.
   */
  constructor(
    private readonly canvas: HTMLCanvasElement | OffscreenCanvas,
    onRestored: () => void,
  ) {
    const gl = canvas.getContext('webgl2', {
      alpha: false,
      antialias: false,
      preserveDrawingBuffer: true,
    }) as WebGL2RenderingContext | null;
    if (!gl) throw new Error('This browser cannot draw pictures on the GPU: WebGL2 is missing.');
    this.gl = gl;
    this.begin();
    // Tablets discard contexts of pages in the background.
    canvas.addEventListener('webglcontextlost', (event) => event.preventDefault());
    canvas.addEventListener('webglcontextrestored', () => {
      this.begin();
      onRestored();
    });
  }

  /** Creates all GPU resources. */
  private begin(): void {
    const { gl } = this;
    this.programs.clear();
    this.small = undefined;
    this.restScale = undefined;
    this.movingScale = undefined;
    const rest = (): RestTextures => ({
      whole: texture(gl, gl.TEXTURE_2D, gl.NEAREST),
      finer: texture(gl, gl.TEXTURE_2D, gl.NEAREST),
      detail: null,
      there: false,
    });
    this.rests = { graded: rest(), compared: rest() };
    this.movingTexture = texture(gl, gl.TEXTURE_2D, gl.LINEAR);
    this.passes = new Passes(gl);
    this.slots = { graded: new GradeTextures(gl), compared: new GradeTextures(gl) };
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    // Compiled in advance for the first change of a step.
    for (const kind of ['rest', 'moving'] as const)
      for (const structure of [[], [{ kind: 'table' }]]) this.programOf(kind, structure);
  }

  setOps(ops: readonly BakedOp[], slot: Slot = 'graded'): void {
    this.slots[slot].setOps(this.tables.unpack(ops));
  }

  setPlanes(planes: Planes, slot: Slot = 'graded'): void {
    this.slots[slot].setPlanes(planes);
  }

  /** The program of a pass; see `passesOf`. */
  private programOf(kind: 'rest' | 'moving', structure: Structure, index = 0): WebGLProgram {
    const key = `${kind} ${index} ${JSON.stringify(structure)}`;
    const known = this.programs.get(key);
    if (known) return known;
    const made = link(this.gl, (kind === 'rest' ? restFragment : movingFragment)(structure, index));
    this.programs.set(key, made);
    return made;
  }

  smallMoving(facts: Pick<MediaFacts, 'width' | 'height' | 'matrix'>): SmallPicture | null {
    const { gl, movingScale } = this;
    if (!movingScale || gl.isContextLost()) return null;
    const cell = cellOf(facts.width, facts.height);
    const [width, height] = [Math.ceil(facts.width / cell), Math.ceil(facts.height / cell)];
    this.small ??= {
      program: link(gl, SMALL_FRAGMENT),
      target: gl.createFramebuffer(),
      texture: texture(gl, gl.TEXTURE_2D, gl.NEAREST),
    };
    const { program, target, texture: into } = this.small;
    gl.activeTexture(gl.TEXTURE0 + FRAME_UNIT + 1);
    gl.bindTexture(gl.TEXTURE_2D, into);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, width, height, 0, gl.RGBA, gl.UNSIGNED_BYTE, null);
    gl.bindFramebuffer(gl.FRAMEBUFFER, target);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, into, 0);
    gl.viewport(0, 0, width, height);
    gl.useProgram(program);
    gl.activeTexture(gl.TEXTURE0 + FRAME_UNIT);
    gl.bindTexture(gl.TEXTURE_2D, this.movingTexture);
    const at = (name: string) => gl.getUniformLocation(program, name);
    gl.uniform1i(at('u_frame'), FRAME_UNIT);
    this.setScale(program, movingScale);
    gl.uniform2f(at('u_cells'), facts.width / cell, facts.height / cell);
    gl.uniform1f(at('u_rows'), height);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const bytes = new Uint8Array(width * height * 4);
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    const code = new Float32Array(width * height * 3);
    const luma = new Float32Array(width * height);
    const [kr, kg, kb] = LUMA[facts.matrix];
    for (let y = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1) {
        // The lowest row comes first.
        const [i, from] = [y * width + x, 4 * ((height - 1 - y) * width + x)];
        for (let c = 0; c < 3; c += 1) code[3 * i + c] = fromSmall(bytes[from + c]);
        luma[i] = kr * code[3 * i] + kg * code[3 * i + 1] + kb * code[3 * i + 2];
      }
    return { width, height, cells: [facts.width / cell, facts.height / cell], code, luma };
  }

  setRest(buffer: ArrayBuffer, format: PlanarFormat, slot: Slot = 'graded'): void {
    if (slot === 'graded') this.rests.compared.there = false;
    const rest = this.rests[slot];
    rest.there = true;
    rest.detail = null;
    this.loadFrame(rest.whole, buffer, format);
    this.restScale = { y: codeScale(format.depth, format.range), m: inverseMatrix(format.matrix) };
  }

  setDetail(buffer: ArrayBuffer, format: PlanarFormat, part: View, slot: Slot = 'graded'): void {
    const rest = this.rests[slot];
    this.loadFrame(rest.finer, buffer, format);
    rest.detail = part;
  }

  private restOf(slot: Slot): RestTextures {
    return this.rests[this.rests[slot].there ? slot : 'graded'];
  }

  private loadFrame(into: WebGLTexture, buffer: ArrayBuffer, format: PlanarFormat): void {
    const { gl } = this;
    const { y, cb, cr } = planesOver(buffer, format);
    const { width, height } = format;
    const texels = new Uint16Array(width * height * 4);
    for (let i = 0, o = 0; i < y.length; i += 1, o += 4) {
      texels[o] = y[i];
      texels[o + 1] = cb[i];
      texels[o + 2] = cr[i];
    }
    gl.activeTexture(gl.TEXTURE0 + FRAME_UNIT);
    gl.bindTexture(gl.TEXTURE_2D, into);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA16UI, width, height, 0, gl.RGBA_INTEGER, gl.UNSIGNED_SHORT, texels);
  }

  setMoving(image: ImageBitmap, facts: MovingFacts): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + FRAME_UNIT);
    gl.bindTexture(gl.TEXTURE_2D, this.movingTexture);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, image);
    image.close();
    this.movingScale = { y: codeScale(8, facts.range), m: inverseMatrix(facts.matrix), shown: shownRows(facts.codes) };
  }

  setEnds(ends: FileEnds): void {
    this.ends = ends;
  }

  draw(kind: 'rest' | 'moving', view: View, look: Look, size: { width: number; height: number }): 'detail' | 'whole' {
    const { gl, canvas } = this;
    const { detail } = this.restOf(look.slot);
    const shown = kind === 'rest' && detail && within(view, detail) ? 'detail' : 'whole';
    if (gl.isContextLost() || !(kind === 'rest' ? this.restScale : this.movingScale)) return shown;
    // During a drag, if drawing is slow, a quarter of the pixels are drawn and scaled up.
    const reduction = look.quick && this.isSlow() ? 2 : 1;
    const [width, height] = [Math.ceil(size.width / reduction), Math.ceil(size.height / reduction)];
    if (canvas.width !== width) canvas.width = width;
    if (canvas.height !== height) canvas.height = height;
    const started = performance.now();
    this.drawSize(kind, view, look, width, height);
    const trial = kind === 'rest' && this.times.length < TRIALS;
    // Reading a pixel waits for the GPU: if it is slow, the next picture is drawn from the latest state.
    if (trial || this.isSlow()) gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
    if (trial) this.times.push(performance.now() - started);
    return shown;
  }

  capture(): Promise<Blob> {
    return canvasFile(this.canvas);
  }

  /** Whether drawing a whole picture is slow here, as without a GPU; measured on the first pictures. */
  private isSlow = (): boolean => this.times.length === TRIALS && Math.min(...this.times) > SLOW_MS;

  private drawSize(kind: 'rest' | 'moving', view: View, look: Look, width: number, height: number): void {
    const { gl } = this;
    const { slot, split, beside } = look;
    const compared = { ...look, region: null };
    if (beside) {
      const [half, low] = [Math.floor(width / 2), Math.floor(height / 4)];
      gl.clearColor(SURROUND, SURROUND, SURROUND, 1);
      gl.clear(gl.COLOR_BUFFER_BIT);
      const box = { x: 0, y: low, width: half, height: Math.ceil(height / 2) };
      this.drawPart(kind, view, 'compared', compared, box);
      this.drawPart(kind, view, slot, look, { ...box, x: half, width: width - half });
      return;
    }
    const whole = { x: 0, y: 0, width, height };
    if (split === null) return this.drawPart(kind, view, slot, look, whole);
    const edge = Math.round(split * width);
    this.drawPart(kind, view, 'compared', compared, whole, { ...whole, width: edge });
    this.drawPart(kind, view, slot, look, whole, { ...whole, x: edge, width: width - edge });
  }

  /** Draws the view into a box of the canvas, clipped to `cut`. */
  private drawPart(kind: 'rest' | 'moving', view: View, slot: Slot, look: Look, box: Box, cut?: Box): void {
    const { gl, passes } = this;
    const textures = this.slots[slot];
    const plan = passes.plan(textures.ops, textures.structure, box.width / view.width);
    plan.passes.forEach((_, i) => {
      const [rim, neighbours] = [plan.rims[i], plan.begins[i]];
      const [width, height] = [box.width + 2 * rim, box.height + 2 * rim];
      if (neighbours) passes.blur(i - 1, neighbours);
      if (i === plan.passes.length - 1) {
        gl.bindFramebuffer(gl.FRAMEBUFFER, null);
        gl.viewport(box.x, box.y, box.width, box.height);
        if (cut) {
          gl.enable(gl.SCISSOR_TEST);
          gl.scissor(cut.x, cut.y, cut.width, cut.height);
        }
      } else passes.begin(i, width, height);
      const program = this.programOf(kind, plan.structure, i);
      gl.useProgram(program);
      const at = (name: string) => gl.getUniformLocation(program, name);
      const unit = textures.use(program, look.region, box.width / view.width);
      if (neighbours) passes.read(program, i, neighbours, plan.rims[i - 1] - rim, unit);
      gl.uniform2f(at('u_own'), width, height);
      gl.uniform2f(at('u_shown'), box.width, box.height);
      gl.uniform1f(at('u_rim'), rim);
      this.setFrame(program, kind, slot, view, look.overlay);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
    });
    gl.disable(gl.SCISSOR_TEST);
  }

  /** Sets the uniforms for reading the frame, and for display. */
  private setFrame(program: WebGLProgram, kind: 'rest' | 'moving', slot: Slot, view: View, overlay: Overlay): void {
    const { gl } = this;
    const at = (name: string) => gl.getUniformLocation(program, name);
    gl.activeTexture(gl.TEXTURE0 + FRAME_UNIT);
    const { whole, finer, detail } = this.restOf(slot);
    const part = kind === 'rest' && detail && within(view, detail) ? detail : WHOLE;
    const rest = part === WHOLE ? whole : finer;
    gl.bindTexture(gl.TEXTURE_2D, kind === 'rest' ? rest : this.movingTexture);
    gl.uniform1i(at('u_frame'), FRAME_UNIT);
    gl.uniform4f(at('u_part'), part.x, part.y, part.width, part.height);
    gl.uniform4f(at('u_view'), view.x, view.y, view.width, view.height);
    this.setScale(program, (kind === 'rest' ? this.restScale : this.movingScale)!);
    gl.uniform1i(at('u_overlay'), OVERLAYS.indexOf(overlay));
    // GLSL has no portable infinity to compare with.
    gl.uniform2f(at('u_ends'), Math.max(-FAR, this.ends.low), Math.min(FAR, this.ends.high));
    gl.uniform1f(at('u_tolerance'), TOLERANCE);
  }

  private setScale(program: WebGLProgram, { y, m, shown }: Scale): void {
    const { gl } = this;
    if (shown) gl.uniform4fv(gl.getUniformLocation(program, 'u_codes'), shown);
    gl.uniform4f(gl.getUniformLocation(program, 'u_scale'), y.yOffset, 1 / y.yScale, y.cOffset, 1 / y.cScale);
    gl.uniform4f(gl.getUniformLocation(program, 'u_matrix'), m.rv, m.gu, m.gv, m.bu);
  }

  dispose(): void {
    this.gl.getExtension('WEBGL_lose_context')?.loseContext();
  }
}
