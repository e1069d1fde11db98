import type { ShownCodes } from '../../colour/proxyCodes';
import { gradeText, MOST_TAPS, passesOf, readsLuma, type Structure } from './gradeText';

/** WebGL2 (GLSL ES 3.00) source of the GPU backend. The app owns the context; the mathematics stays here. */

/** One triangle over the whole target; v_uv is 0–1 with v downward, as pictures are stored. */
export const VERTEX = `#version 300 es
out vec2 v_uv;
void main() {
  vec2 p = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
  v_uv = vec2(0.5 + 0.5 * p.x, 0.5 - 0.5 * p.y);
  gl_Position = vec4(p, 0.0, 1.0);
}`;

const DECODE = `
uniform vec4 u_scale;   // y offset, 1 / y scale, c offset, 1 / c scale
uniform vec4 u_matrix;  // R from Cr, G from Cb, G from Cr, B from Cb
float toLuma(vec3 code) { return (code.x - u_scale.x) * u_scale.y; }
vec3 toRgb(vec3 code) {
  float y = toLuma(code);
  vec2 c = (code.yz - u_scale.z) * u_scale.w;
  return vec3(y + u_matrix.x * c.y, y + u_matrix.y * c.x + u_matrix.z * c.y, y + u_matrix.w * c.x);
}`;

/** A pixel's position in the frame. Passes before the last one also draw a margin around the visible part. */
const PLACE = `vec2 place() { return u_view.xy + v_uv * u_view.zw; }`;
const PLACE_AROUND = `
uniform vec2 u_own;    // this picture's size
uniform vec2 u_shown;  // of the part that is shown
uniform float u_rim;   // how much is drawn around that
vec2 place() { return u_view.xy + (v_uv * u_own - u_rim) / u_shown * u_view.zw; }`;

const MAIN = `
uniform int u_overlay;      // 0 none, 1 zones, 2 clipping, 3 what a region leaves out
uniform float u_whole;      // how much is chosen where all is
uniform vec2 u_ends;        // code values at which the file has lost detail
uniform float u_tolerance;  // beyond 0 and 1 by less than this nothing is lost
out vec4 o_colour;
// Eleven flat greys, one for each tenth of luma.
vec3 zones(vec3 rgb) {
  return vec3(clamp(floor(dot(rgb, vec3(0.2126, 0.7152, 0.0722)) * 10.0 + 0.5), 0.0, 10.0) / 10.0);
}
// Out of range where the file's own value is not, on that side.
bool isLost(float v, float code) {
  return (v > 1.0 + u_tolerance && code <= 1.0 + u_tolerance) || (v < -u_tolerance && code >= -u_tolerance);
}
// Stripes where the file had lost it, checks where the grade loses it.
vec3 clipping(vec3 code, vec3 rgb, vec3 shown) {
  vec2 at = gl_FragCoord.xy;
  if (any(greaterThanEqual(code, vec3(u_ends.y))) || any(lessThanEqual(code, vec3(u_ends.x))))
    return vec3(mod(at.x + at.y, 12.0) < 6.0 ? 1.0 : 0.0);
  if (isLost(rgb.r, code.r) || isLost(rgb.g, code.g) || isLost(rgb.b, code.b))
    return vec3(mod(floor(at.x / 5.0) + floor(at.y / 5.0), 2.0) < 1.0 ? 1.0 : 0.0);
  return shown;
}
// Fine lines over what is left out, a bright one beside a dark one, so that any ground shows them; the less is chosen,
// the clearer.
vec3 hatched(vec3 shown, float part) {
  float at = mod(gl_FragCoord.x - gl_FragCoord.y, 9.0);
  float line = 1.0 - smoothstep(1.2, 1.8, abs(at - 4.5));
  float light = dot(shown, vec3(0.2126, 0.7152, 0.0722));
  return mix(shown, vec3(at < 4.5 ? light - 0.35 : light + 0.35), line * (1.0 - part));
}
void show(vec3 code, vec3 rgb) {
  vec3 shown = clamp(rgb, 0.0, 1.0);
  if (u_overlay == 1) shown = zones(shown);
  if (u_overlay == 2) shown = clipping(code, rgb, shown);
  if (u_overlay == 3) shown = hatched(shown, clamp(chosen / u_whole, 0.0, 1.0));
  o_colour = vec4(shown, 1.0);
}`;

/** Outputs the colour for the next pass, and the selection of the region being shown. */
const PASS_ON = `
layout(location = 0) out vec4 o_colour;
layout(location = 1) out vec4 o_chosen;`;

/** The body of a pass: its first op takes the file's colour, or the output of the previous pass. */
function mainText(first: boolean, last: boolean, readsLuma: boolean): string {
  const enters = first
    ? `vec3 read = readCode();
  vec3 code = toRgb(read);
  vec4 c = vec4(code, 0.0);
  float luma = toLuma(read);`
    : // The file is read again only by passes that need it.
      `vec4 c = texelFetch(u_before, pixelBefore(), 0);
  chosen = texelFetch(u_chosenBefore, pixelBefore(), 0).r;
  float luma = ${readsLuma ? 'toLuma(readCode())' : '0.0'};
  ${last ? 'vec3 code = u_overlay == 2 ? toRgb(readCode()) : vec3(0.0);' : ''}`;
  return `
void main() {
  vec2 uv = clamp(place(), 0.0, 1.0);
  ${enters}
  c = grade(c, uv, luma);
  ${last ? 'show(code, c.rgb);' : 'o_colour = c;\n  o_chosen = vec4(chosen);'}
}`;
}

/** Everything in a pass except how it reads the frame. */
function passText(structure: Structure, index: number, readText: string): string {
  const passes = passesOf(structure);
  const [first, last] = [index === 0, index === passes.length - 1];
  return `${passes.length > 1 ? PLACE_AROUND : PLACE}
${DECODE}
${gradeText(structure, passes[index])}
${readText}
${last ? MAIN : PASS_ON}
${mainText(first, last, readsLuma(structure, passes[index]))}`;
}

/**
 * A pass over a still frame or a part of one: an RGBA16UI texture of Y', Cb, Cr code values. u_view is the visible part
 * of the frame, u_part the part that the texture holds: x, y, width, height.
 */
export const restFragment = (structure: Structure, index: number): string => `#version 300 es
precision highp float;
precision highp int;
in vec2 v_uv;
uniform highp usampler2D u_frame;
uniform vec4 u_view;
uniform vec4 u_part;
${passText(
  structure,
  index,
  `vec3 readCode() {
  ivec2 size = textureSize(u_frame, 0);
  vec2 at = (place() - u_part.xy) / u_part.zw * vec2(size) - 0.5;
  // Exactly on a sample (one to one): no interpolation, no rounding.
  vec2 whole = floor(at + 0.001);
  vec2 f = max(at - whole, 0.0);
  if (max(f.x, f.y) < 0.004) return vec3(texelFetch(u_frame, clamp(ivec2(whole), ivec2(0), size - 1), 0).xyz);
  ivec2 p0 = clamp(ivec2(whole), ivec2(0), size - 1);
  ivec2 p1 = clamp(ivec2(whole) + 1, ivec2(0), size - 1);
  vec3 a = mix(vec3(texelFetch(u_frame, p0, 0).xyz), vec3(texelFetch(u_frame, ivec2(p1.x, p0.y), 0).xyz), f.x);
  vec3 b = mix(vec3(texelFetch(u_frame, ivec2(p0.x, p1.y), 0).xyz), vec3(texelFetch(u_frame, p1, 0).xyz), f.x);
  return mix(a, b, f.y);
}`,
)}`;

/** The file's code values (0–255) from what a browser shows of a proxy: rows of `shownCodes`. */
const SHOWN = `uniform vec4 u_codes[3];
vec3 codesOf(vec3 rgb) {
  vec4 c = vec4(rgb * 255.0, 1.0);
  return vec3(dot(u_codes[0], c), dot(u_codes[1], c), dot(u_codes[2], c));
}`;
/** Values of `u_codes`. */
export const shownRows = ({ matrix: m, offset: o }: ShownCodes): number[] =>
  [0, 1, 2].flatMap((row) => [...m.slice(3 * row, 3 * row + 3), o[row]]);

/**
 * A pass over a video frame: a browser's own conversion of the proxy (`core/colour/proxyCodes.ts`) is undone first, to
 * recover the file's code values including super-whites.
 */
export const movingFragment = (structure: Structure, index: number): string => `#version 300 es
precision highp float;
precision highp int;
in vec2 v_uv;
uniform sampler2D u_frame;
uniform vec4 u_view;
${passText(
  structure,
  index,
  `${SHOWN}
vec3 readCode() {
  return codesOf(texture(u_frame, place()).rgb);
}`,
)}`;

/** Blurs a pass's output along the rows. */
export const ACROSS_FRAGMENT = `#version 300 es
precision highp float;
uniform sampler2D u_before;
uniform vec2 u_size;
uniform float u_taps[${MOST_TAPS + 1}];
uniform int u_radius;
uniform float u_apart;
out vec4 o_colour;
vec3 colourAt(ivec2 at, float off) {
  return u_apart == 1.0
    ? texelFetch(u_before, ivec2(clamp(at.x + int(off), 0, int(u_size.x) - 1), at.y), 0).rgb
    : texture(u_before, (vec2(at) + 0.5 + vec2(off, 0.0)) / u_size).rgb;
}
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec3 sum = u_taps[0] * colourAt(at, 0.0);
  for (int i = 1; i <= u_radius; i += 1)
    sum += u_taps[i] * (colourAt(at, float(i) * u_apart) + colourAt(at, -float(i) * u_apart));
  o_colour = vec4(sum, 1.0);
}`;

/**
 * A video frame averaged over the cells that planes are made from (u_cells: the frame's size in cells), as R'G'B' of
 * the file: 0.1 + 0.75 · value, so that values beyond black and white fit into eight bits.
 */
export const SMALL_FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
uniform sampler2D u_frame;
uniform vec2 u_cells;
uniform float u_rows;
out vec4 o_colour;
${DECODE}
${SHOWN}
void main() {
  vec2 cell = vec2(floor(gl_FragCoord.x), u_rows - 1.0 - floor(gl_FragCoord.y));
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 16; i += 1) {
    vec2 at = (cell + (vec2(i & 3, i >> 2) + 0.5) / 4.0) / u_cells;
    sum += toRgb(codesOf(texture(u_frame, min(at, vec2(1.0))).rgb));
  }
  o_colour = vec4(0.1 + 0.75 * sum / 16.0, 1.0);
}`;
export const fromSmall = (byte: number): number => (byte / 255 - 0.1) / 0.75;
