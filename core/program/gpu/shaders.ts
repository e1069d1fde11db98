import { ALPHA, BETA } from '../../colour/transfer';
import { stepKind } from '../../steps';

/** WebGL2 (GLSL ES 3.00) text of the GPU backend. The app owns the context; the mathematics stays here. */

/** One triangle over the whole target; v_uv is 0–1 with v downward, as pictures are stored. */
export const VERTEX = `#version 300 es
out vec2 v_uv;
void main() {
  vec2 p = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
  v_uv = vec2(0.5 + 0.5 * p.x, 0.5 - 0.5 * p.y);
  gl_Position = vec4(p, 0.0, 1.0);
}`;

const LOOK_UP = `
vec4 node(highp sampler3D t, ivec3 p) { return texelFetch(t, p, 0); }
// Tetrahedral interpolation: walk from the low corner to the high corner along the axes in order of their fractions.
vec4 lookUp(highp sampler3D t, int size, vec2 domain, vec3 c) {
  float top = float(size - 1);
  vec3 p = clamp((c - domain.x) * (top / (domain.y - domain.x)), 0.0, top);
  ivec3 i = ivec3(min(floor(p), top - 1.0));
  vec3 f = p - vec3(i);
  ivec3 a, b;
  float hi, mid, lo;
  if (f.x >= f.y) {
    if (f.y >= f.z) { a = ivec3(1,0,0); b = ivec3(1,1,0); hi = f.x; mid = f.y; lo = f.z; }
    else if (f.x >= f.z) { a = ivec3(1,0,0); b = ivec3(1,0,1); hi = f.x; mid = f.z; lo = f.y; }
    else { a = ivec3(0,0,1); b = ivec3(1,0,1); hi = f.z; mid = f.x; lo = f.y; }
  } else if (f.z >= f.y) { a = ivec3(0,0,1); b = ivec3(0,1,1); hi = f.z; mid = f.y; lo = f.x; }
  else if (f.z >= f.x) { a = ivec3(0,1,0); b = ivec3(0,1,1); hi = f.y; mid = f.z; lo = f.x; }
  else { a = ivec3(0,1,0); b = ivec3(1,1,0); hi = f.y; mid = f.x; lo = f.z; }
  return (1.0 - hi) * node(t, i) + (hi - mid) * node(t, i + a) + (mid - lo) * node(t, i + b) + lo * node(t, i + 1);
}`;

const FIELDS = `
// BT.709, odd below 0, continued above 1.
vec3 decode(vec3 v) {
  vec3 a = abs(v);
  return sign(v) * mix(a / 4.5, pow((a + ${ALPHA - 1}) / ${ALPHA}, vec3(1.0 / 0.45)), greaterThanEqual(a, vec3(${4.5 * BETA})));
}
vec3 encode(vec3 v) {
  vec3 a = abs(v);
  return sign(v) * mix(a * 4.5, ${ALPHA} * pow(max(a, vec3(1e-9)), vec3(0.45)) - ${ALPHA - 1}, greaterThanEqual(a, vec3(${BETA})));
}
// A map of the frame: a and b interpolated between cells, then a * luma + b. \`cells\` is the frame's size in cells.
float mapAt(highp sampler2D m, vec2 cells, vec2 uv, float luma) {
  ivec2 last = textureSize(m, 0) - 1;
  vec2 at = clamp(uv * cells - 0.5, vec2(0.0), vec2(last));
  ivec2 p = ivec2(at), q = min(p + 1, last);
  vec2 f = at - vec2(p);
  vec2 top = mix(texelFetch(m, p, 0).rg, texelFetch(m, ivec2(q.x, p.y), 0).rg, f.x);
  vec2 low = mix(texelFetch(m, ivec2(p.x, q.y), 0).rg, texelFetch(m, q, 0).rg, f.x);
  vec2 k = mix(top, low, f.y);
  return clamp(k.x * luma + k.y, 0.0, 1.0);
}`;

/** What ops one after the other are made of: "lut", or the kind of a spatial step. */
export type Structure = readonly string[];

/** The ops of a grade as GLSL: \`grade\` takes a colour through them. Pass k has u_table/u_map/u_data k. */
function gradeText(structure: Structure): string {
  const kinds = [...new Set(structure.filter((s) => s !== 'lut'))];
  const uniforms = structure.map((s, k) =>
    s === 'lut'
      ? `uniform highp sampler3D u_table${k}; uniform int u_size${k}; uniform vec2 u_domain${k};`
      : `uniform highp sampler2D u_map${k}; uniform highp sampler2D u_data${k}; uniform vec2 u_cells${k};`,
  );
  const calls = structure.map((s, k) =>
    s === 'lut'
      ? `  c = lookUp(u_table${k}, u_size${k}, u_domain${k}, c.rgb);`
      : `  c = vec4(mix(c.rgb, encode(${s}(decode(c.rgb), mapAt(u_map${k}, u_cells${k}, uv, luma), u_data${k})), c.a), 1.0);`,
  );
  return `
${structure.includes('lut') ? LOOK_UP : ''}
${kinds.length ? FIELDS : ''}
${[...new Set(kinds.map((kind) => stepKind(kind).shader!.functions ?? ''))].join('\n')}
${kinds.map((kind) => `vec3 ${kind}(vec3 rgb, float map, highp sampler2D data) {${stepKind(kind).shader!.body}\n}`).join('\n')}
${uniforms.join('\n')}
vec3 grade(vec3 rgb, vec2 uv, float luma) {
  vec4 c = vec4(rgb, 1.0);
${calls.join('\n')}
  return c.rgb;
}`;
}

const DECODE = `
uniform vec4 u_scale;   // y offset, 1 / y scale, c offset, 1 / c scale
uniform vec4 u_matrix;  // R from Cr, G from Cb, G from Cr, B from Cb
float toLuma(vec3 code) { return (code.x - u_scale.x) * u_scale.y; }
vec3 toRgb(vec3 code) {
  float y = toLuma(code);
  vec2 c = (code.yz - u_scale.z) * u_scale.w;
  return vec3(y + u_matrix.x * c.y, y + u_matrix.y * c.x + u_matrix.z * c.y, y + u_matrix.w * c.x);
}`;

const MAIN = `
uniform int u_overlay;      // 0 none, 1 zones, 2 clipping
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
void main() {
  vec3 read = readCode();
  vec3 code = toRgb(read);
  vec3 rgb = grade(code, u_view.xy + v_uv * u_view.zw, toLuma(read));
  vec3 shown = clamp(rgb, 0.0, 1.0);
  if (u_overlay == 1) shown = zones(shown);
  if (u_overlay == 2) shown = clipping(code, rgb, shown);
  o_colour = vec4(shown, 1.0);
}`;

/**
 * A frame at rest, or a part of one: an RGBA16UI texture of Y', Cb, Cr code values. u_view is the part of the frame that
 * is shown, u_part the one that the texture holds: x, y, width, height.
 */
export const restFragment = (structure: Structure): string => `#version 300 es
precision highp float;
precision highp int;
in vec2 v_uv;
uniform highp usampler2D u_frame;
uniform vec4 u_view;
uniform vec4 u_part;
${DECODE}
${gradeText(structure)}
vec3 readCode() {
  ivec2 size = textureSize(u_frame, 0);
  vec2 at = (u_view.xy + v_uv * u_view.zw - u_part.xy) / u_part.zw * vec2(size) - 0.5;
  // Exactly on a sample (one to one): no interpolation, no rounding.
  vec2 whole = floor(at + 0.001);
  vec2 f = max(at - whole, 0.0);
  if (max(f.x, f.y) < 0.004) return vec3(texelFetch(u_frame, clamp(ivec2(whole), ivec2(0), size - 1), 0).xyz);
  ivec2 p0 = clamp(ivec2(whole), ivec2(0), size - 1);
  ivec2 p1 = clamp(ivec2(whole) + 1, ivec2(0), size - 1);
  vec3 a = mix(vec3(texelFetch(u_frame, p0, 0).xyz), vec3(texelFetch(u_frame, ivec2(p1.x, p0.y), 0).xyz), f.x);
  vec3 b = mix(vec3(texelFetch(u_frame, ivec2(p0.x, p1.y), 0).xyz), vec3(texelFetch(u_frame, p1, 0).xyz), f.x);
  return mix(a, b, f.y);
}
${MAIN}`;

/**
 * A moving frame: a browser's own conversion of the proxy, which carries the file's code values under a full-range
 * BT.709 label. The conversion is undone first, which gives the code values back, super-whites included.
 */
export const movingFragment = (structure: Structure): string => `#version 300 es
precision highp float;
precision highp int;
in vec2 v_uv;
uniform sampler2D u_frame;
uniform vec4 u_view;
${DECODE}
${gradeText(structure)}
vec3 readCode() {
  vec3 c = texture(u_frame, u_view.xy + v_uv * u_view.zw).rgb;
  float y = dot(c, vec3(0.2126, 0.7152, 0.0722));
  return vec3(y, (c.b - y) / 1.8556 + 128.0 / 255.0, (c.r - y) / 1.5748 + 128.0 / 255.0) * 255.0;
}
${MAIN}`;

/**
 * A moving frame averaged over the cells that planes are made from (u_cells: the frame's size in cells), as R'G'B' of the
 * file: 0.1 + 0.75 · value, so that what lies beyond black and white fits into eight bits.
 */
export const SMALL_FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
uniform sampler2D u_frame;
uniform vec2 u_cells;
uniform float u_rows;
out vec4 o_colour;
${DECODE}
void main() {
  vec2 cell = vec2(floor(gl_FragCoord.x), u_rows - 1.0 - floor(gl_FragCoord.y));
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 16; i += 1) {
    vec2 at = (cell + (vec2(i & 3, i >> 2) + 0.5) / 4.0) / u_cells;
    vec3 c = texture(u_frame, min(at, vec2(1.0))).rgb;
    float y = dot(c, vec3(0.2126, 0.7152, 0.0722));
    sum += toRgb(vec3(y, (c.b - y) / 1.8556 + 128.0 / 255.0, (c.r - y) / 1.5748 + 128.0 / 255.0) * 255.0);
  }
  o_colour = vec4(0.1 + 0.75 * sum / 16.0, 1.0);
}`;
export const fromSmall = (byte: number): number => (byte / 255 - 0.1) / 0.75;
