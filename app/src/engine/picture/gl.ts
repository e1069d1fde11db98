import { VERTEX } from '@inkavo/core/program/gpu/shaders';

/** A program that draws one triangle over the whole target. Throws an Error with the compiler's message. */
export function link(gl: WebGL2RenderingContext, fragment: string): WebGLProgram {
  const program = gl.createProgram();
  for (const [type, source] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS))
    throw new Error(`A shader does not work here: ${gl.getProgramInfoLog(program)}`);
  return program;
}

/** A non-repeating texture. */
export function texture(gl: WebGL2RenderingContext, target: number, filter: number): WebGLTexture {
  const made = gl.createTexture();
  gl.bindTexture(target, made);
  gl.texParameteri(target, gl.TEXTURE_MIN_FILTER, filter);
  gl.texParameteri(target, gl.TEXTURE_MAG_FILTER, filter);
  for (const wrap of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(target, wrap, gl.CLAMP_TO_EDGE);
  return made;
}
