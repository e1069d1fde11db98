import { ALPHA, BETA } from '../../colour/transfer';
import { CLEANED } from '../../regions/clean';
import { formulaToGlsl } from '../../formula/glsl';
import { stepKind } from '../../steps';
import type { BakedOp } from '../baked';

/** Entries of a curve before a table in a row of its texture. */
export const SHAPER_WIDTH = 1024;

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

const LIGHT = `
// BT.709, odd below 0, continued above 1.
vec3 decode(vec3 v) {
  vec3 a = abs(v);
  return sign(v) * mix(a / 4.5, pow((a + ${ALPHA - 1}) / ${ALPHA}, vec3(1.0 / 0.45)), greaterThanEqual(a, vec3(${4.5 * BETA})));
}
vec3 encode(vec3 v) {
  vec3 a = abs(v);
  return sign(v) * mix(a * 4.5, ${ALPHA} * pow(max(a, vec3(1e-9)), vec3(0.45)) - ${ALPHA - 1}, greaterThanEqual(a, vec3(${BETA})));
}`;

const MAPS = `
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

const MASKS = `
uniform highp sampler2D u_shapes;   // distances, one shape below the other
uniform highp sampler2D u_outlines; // a row for each shape: place of its first cell, cell, slope; size, first row, form
uniform float u_aspect;             // the frame's width over its height
float distanceAt(int x, int y) { return texelFetch(u_shapes, ivec2(x, y), 0).r; }
// The shapes of a region at a place: \`which\` is the first one and how many; 0: everywhere, -1: nowhere.
float maskAt(ivec2 which, vec2 uv) {
  if (which.y == 0) return 1.0;
  float m = 0.0;
  for (int i = 0; i < which.y; i += 1) {
    vec4 a = texelFetch(u_outlines, ivec2(0, which.x + i), 0);
    vec4 b = texelFetch(u_outlines, ivec2(1, which.x + i), 0);
    bool adds = mod(b.w, 2.0) > 0.5;
    if (i == 0 && !adds) m = 1.0;
    vec2 p = clamp((vec2(uv.x, uv.y / u_aspect) - a.xy) / a.z, vec2(0.0), b.xy - 1.0);
    ivec2 low = ivec2(p), high = min(low + 1, ivec2(b.xy) - 1);
    vec2 f = p - vec2(low);
    int row = int(b.z);
    float near = mix(distanceAt(low.x, row + low.y), distanceAt(low.x, row + high.y), f.y);
    float next = mix(distanceAt(high.x, row + low.y), distanceAt(high.x, row + high.y), f.y);
    float t = clamp(0.5 - mix(near, next, f.x) * a.w, 0.0, 1.0);
    t *= t * (3.0 - 2.0 * t);
    if (b.w > 1.5) t = 1.0 - t;
    m = adds ? max(m, t) : min(m, t);
  }
  return m;
}
float amountOf(vec4 join, float m, float a) { return join.x + join.y * m + join.z * a + join.w * m * a; }`;

const SHAPER = `
// A curve for each channel before a table: entries in rows of ${SHAPER_WIDTH}.
float shaped(highp sampler2D t, int size, float low, float high, float v, int c) {
  float x = clamp((v - low) * float(size - 1) / (high - low), 0.0, float(size - 1));
  int i = min(int(x), size - 2), j = i + 1;
  float a = texelFetch(t, ivec2(i % ${SHAPER_WIDTH}, i / ${SHAPER_WIDTH}), 0)[c];
  float b = texelFetch(t, ivec2(j % ${SHAPER_WIDTH}, j / ${SHAPER_WIDTH}), 0)[c];
  return a + (x - float(i)) * (b - a);
}
vec3 shape(highp sampler2D t, int size, vec3 low, vec3 high, vec3 v) {
  return vec3(shaped(t, size, low.r, high.r, v.r, 0), shaped(t, size, low.g, high.g, v.g, 1), shaped(t, size, low.b, high.b, v.b, 2));
}`;

/** What one op is, as far as the shader's text depends on it. */
export interface OpText {
  /** A table, or the kind of a spatial step. */
  kind: 'table' | (string & {});
  /** It acts in parts; its share by colour comes from its own table, or was carried by the one before. */
  mix?: 'own' | 'carried';
  /** What its colour chooses is held between limits of the neighbourhood. */
  clean?: boolean;
  shaper?: boolean;
}
/** What ops one after the other are. */
export type Structure = readonly OpText[];

/** The form of baked ops. */
export const structureOf = (ops: readonly BakedOp[]): Structure =>
  ops.map((op) => ({
    kind: op.kind === 'table' ? 'table' : op.step,
    ...(op.mix ? { mix: op.kind === 'table' && !op.own ? ('own' as const) : ('carried' as const) } : {}),
    ...(op.mix?.clean === undefined ? {} : { clean: true }),
    ...(op.kind === 'table' && op.table.shaper ? { shaper: true } : {}),
  }));

function uniformsOf({ kind, mix, clean, shaper }: OpText, k: number): string {
  const own =
    kind === 'table'
      ? `uniform highp sampler3D u_table${k}; uniform int u_size${k}; uniform vec2 u_domain${k};`
      : `uniform highp sampler2D u_map${k}; uniform highp sampler2D u_data${k}; uniform vec2 u_cells${k};`;
  return [
    own,
    ...(mix ? [`uniform vec4 u_join${k}; uniform ivec2 u_mask${k};`] : []),
    ...(clean ? [`uniform highp sampler2D u_around${k}; uniform vec2 u_aroundCells${k};`] : []),
    ...(shaper
      ? [
          `uniform highp sampler2D u_shaper${k}; uniform int u_entries${k}; uniform vec3 u_low${k}; uniform vec3 u_high${k};`,
        ]
      : []),
  ].join('\n');
}

/** A spatial step's function on an encoded colour. */
const pointOf = (kind: string, reads: string): string =>
  stepKind(kind).formula!.light === 'linear' ? `encode(${kind}(decode(c.rgb), ${reads}))` : `${kind}(c.rgb, ${reads})`;

function callOf({ kind, mix, clean, shaper }: OpText, k: number): string {
  const entering = shaper ? `shape(u_shaper${k}, u_entries${k}, u_low${k}, u_high${k}, c.rgb)` : 'c.rgb';
  const out =
    kind === 'table'
      ? `lookUp(u_table${k}, u_size${k}, u_domain${k}, ${entering})`
      : `vec4(${pointOf(kind, `mapAt(u_map${k}, u_cells${k}, uv, luma), u_data${k}`)}, 0.0)`;
  if (!mix) return `  c = ${out};`;
  const chosen = mix === 'own' ? 'to.a' : 'c.a';
  const a = clean ? `cleaned(${chosen}, mapAt(u_around${k}, u_aroundCells${k}, uv, luma))` : chosen;
  return `  {
    vec4 to = ${out};
    float amount = amountOf(u_join${k}, maskAt(u_mask${k}, uv), ${a});
    if (u_chosen == ${k}) chosen = amount;
    c = vec4(mix(c.rgb, to.rgb, amount), 0.0);
  }`;
}

/** The ops of a grade as GLSL: \`grade\` takes a colour through them. Op k has uniforms that end in k. */
function gradeText(structure: Structure): string {
  const cleans = structure.some((s) => s.clean);
  const kinds = [...new Set(structure.map((s) => s.kind).filter((s) => s !== 'table'))];
  return `
${structure.some((s) => s.kind === 'table') ? LOOK_UP : ''}
${structure.some((s) => s.shaper) ? SHAPER : ''}
${structure.some((s) => s.mix) ? MASKS : ''}
${kinds.length ? LIGHT : ''}
${kinds.length || cleans ? MAPS : ''}
${cleans ? CLEANED : ''}
${kinds.map((kind) => formulaToGlsl(stepKind(kind).formula!)).join('\n')}
${structure.map(uniformsOf).join('\n')}
uniform int u_chosen; // the op of the region whose choice is shown; -1: none
float chosen = 1.0;
vec3 grade(vec3 rgb, vec2 uv, float luma) {
  vec4 c = vec4(rgb, 0.0);
${structure.map(callOf).join('\n')}
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
void main() {
  vec3 read = readCode();
  vec3 code = toRgb(read);
  vec3 rgb = grade(code, u_view.xy + v_uv * u_view.zw, toLuma(read));
  vec3 shown = clamp(rgb, 0.0, 1.0);
  if (u_overlay == 1) shown = zones(shown);
  if (u_overlay == 2) shown = clipping(code, rgb, shown);
  if (u_overlay == 3) shown = hatched(shown, clamp(chosen / u_whole, 0.0, 1.0));
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
