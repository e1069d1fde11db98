import type { BakedOp } from '@inkavo/core/program/baked';
import { MOST_TAPS, passesOf, type Structure } from '@inkavo/core/program/gpu/gradeText';
import { ACROSS_FRAGMENT } from '@inkavo/core/program/gpu/shaders';
import { radiusOf, tapsOf } from '@inkavo/core/program/stencil';
import { link, texture } from './gl';

/** A rectangle of the canvas in pixels, from the lower left. */
export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** A stencil at the drawn size. */
interface Neighbours {
  weights: Float32Array;
  radius: number;
  /** Spacing of the samples in pixels. */
  apart: number;
}

/** Output of a pass for the next one. */
interface Target {
  frame: WebGLFramebuffer;
  colour: WebGLTexture;
  chosen: WebGLTexture;
  /** The same, blurred horizontally. */
  across: { frame: WebGLFramebuffer; texture: WebGLTexture };
  width: number;
  height: number;
}

/** Texture units of stencils, in addition to those of all ops. */
export const PASS_UNITS = 3;

/**
 * The sampling of each stencil op, if the whole frame is `across` pixels wide on the screen; none: it has no effect.
 */
function neighboursOf(ops: readonly BakedOp[], across: number): (Neighbours | undefined)[] {
  return ops.map((op) => {
    if (op.kind !== 'stencil') return undefined;
    const deviation = op.spread * across;
    // When magnified, neighbours are more than a pixel apart.
    const apart = Math.max(1, radiusOf(deviation) / (MOST_TAPS - 1));
    const { radius, weights } = tapsOf(deviation / apart);
    return radius > 0 ? { radius, weights, apart } : undefined;
  });
}

/**
 * Draws ops in several passes if they include stencils: each but the last into a 16-bit float texture, with the margin
 * that later passes read.
 */
export class Passes {
  /** Linked when a stencil is first drawn. */
  private across: WebGLProgram | undefined;
  private readonly targets: (Target | undefined)[] = [];
  /** Whether this browser can render to float textures; if not, stencils are skipped. */
  private readonly possible: boolean;

  constructor(private readonly gl: WebGL2RenderingContext) {
    this.possible = Boolean(
      gl.getExtension('EXT_color_buffer_float') ?? gl.getExtension('EXT_color_buffer_half_float'),
    );
  }

  /** Structure of the ops if the whole frame is `across` pixels wide. */
  plan(ops: readonly BakedOp[], structure: Structure, across: number) {
    const neighbours = this.possible ? neighboursOf(ops, across) : [];
    const seen: Structure = structure.map((op, k) => (op.stencil && !neighbours[k] ? { ...op, stencil: 'idle' } : op));
    const passes = passesOf(seen);
    const begins = passes.map(({ from }, i) => (i > 0 ? neighbours[from]! : undefined));
    // Margin drawn around the visible part for the following passes.
    const rims = passes.map((_, i) =>
      begins.slice(i + 1).reduce((sum, n) => sum + Math.ceil(n!.radius * n!.apart) + 1, 0),
    );
    return { structure: seen, passes, begins, rims };
  }

  /** Binds the target of a pass. */
  begin(index: number, width: number, height: number): void {
    const { gl } = this;
    const target = (this.targets[index % 2] ??= this.make());
    if (target.width !== width || target.height !== height) {
      this.size(target.colour, 4, width, height);
      this.size(target.chosen, 1, width, height);
      this.size(target.across.texture, 4, width, height);
      Object.assign(target, { width, height });
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, target.frame);
    gl.viewport(0, 0, width, height);
  }

  private make(): Target {
    const { gl } = this;
    const into = (...textures: WebGLTexture[]): WebGLFramebuffer => {
      const frame = gl.createFramebuffer();
      gl.bindFramebuffer(gl.FRAMEBUFFER, frame);
      const places = textures.map((_, i) => gl.COLOR_ATTACHMENT0 + i);
      textures.forEach((of, i) => gl.framebufferTexture2D(gl.FRAMEBUFFER, places[i], gl.TEXTURE_2D, of, 0));
      gl.drawBuffers(places);
      return frame;
    };
    const [colour, chosen, blurred] = [0, 1, 2].map(() => texture(gl, gl.TEXTURE_2D, gl.LINEAR));
    const across = { frame: into(blurred), texture: blurred };
    return { frame: into(colour, chosen), colour, chosen, across, width: 0, height: 0 };
  }

  private size(of: WebGLTexture, channels: 1 | 4, width: number, height: number): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + 1);
    gl.bindTexture(gl.TEXTURE_2D, of);
    const [inner, form] = channels === 1 ? [gl.R16F, gl.RED] : [gl.RGBA16F, gl.RGBA];
    gl.texImage2D(gl.TEXTURE_2D, 0, inner, width, height, 0, form, gl.HALF_FLOAT, null);
  }

  /** Blurs the output of pass `index` horizontally. */
  blur(index: number, neighbours: Neighbours): void {
    const { gl } = this;
    const { width, height, colour, across: into } = this.targets[index % 2]!;
    const across = (this.across ??= link(gl, ACROSS_FRAGMENT));
    gl.bindFramebuffer(gl.FRAMEBUFFER, into.frame);
    gl.viewport(0, 0, width, height);
    gl.useProgram(across);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, colour);
    gl.uniform1i(gl.getUniformLocation(across, 'u_before'), 0);
    this.setNeighbours(across, neighbours, width, height);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Binds the inputs of a pass from texture unit `unit` on. `offset`: how much smaller its target is on each side. */
  read(program: WebGLProgram, index: number, neighbours: Neighbours, offset: number, unit: number): void {
    const { gl } = this;
    const { width, height, colour, chosen, across } = this.targets[(index - 1) % 2]!;
    [
      ['u_before', colour],
      ['u_across', across.texture],
      ['u_chosenBefore', chosen],
    ].forEach(([name, of], i) => {
      gl.activeTexture(gl.TEXTURE0 + unit + i);
      gl.bindTexture(gl.TEXTURE_2D, of as WebGLTexture);
      gl.uniform1i(gl.getUniformLocation(program, name as string), unit + i);
    });
    gl.uniform2f(gl.getUniformLocation(program, 'u_offset'), offset, offset);
    this.setNeighbours(program, neighbours, width, height);
  }

  private setNeighbours(
    program: WebGLProgram,
    { weights, radius, apart }: Neighbours,
    width: number,
    height: number,
  ): void {
    const { gl } = this;
    const at = (name: string) => gl.getUniformLocation(program, name);
    gl.uniform2f(at('u_size'), width, height);
    gl.uniform1fv(at('u_taps'), weights);
    gl.uniform1i(at('u_radius'), radius);
    gl.uniform1f(at('u_apart'), apart);
  }
}
