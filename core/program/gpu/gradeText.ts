import { ALPHA, BETA } from '../../colour/transfer';
import { CLEANED } from '../../regions/clean';
import { formulaToGlsl } from '../../formula/glsl';
import { stepKind } from '../../steps';
import type { BakedOp } from '../baked';

/** Generates GLSL ES 3.00 for the ops of a program. */

/** Entries per texture row of a curve before a table. */
export const SHAPER_WIDTH = 1024;

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
// A map of the frame: a and b interpolated between cells, then a * luma + b. Cells are the frame's size in cells, and where its
// corner lies among them. Beyond its ends a map goes on as it is there, or begins anew.
float mapAt(highp sampler2D m, vec4 cells, bool repeats, vec2 uv, float luma) {
  ivec2 last = textureSize(m, 0) - 1;
  vec2 ends = vec2(last);
  vec2 at = uv * cells.xy + cells.zw - 0.5;
  at = repeats ? at - floor(at / ends) * ends : clamp(at, vec2(0.0), ends);
  ivec2 p = min(ivec2(at), last), q = min(p + 1, last);
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

/** The properties of an op that determine its shader source. */
export interface OpText {
  /** A table, or the kind of a spatial step. */
  kind: 'table' | (string & {});
  /** It reads a pixel's neighbours; idle: it has none at the size drawn. */
  stencil?: 'acts' | 'idle';
  /** It is mixed partially; the selection by colour comes from its own table or from the one before. */
  mix?: 'own' | 'carried';
  /** Its selection by colour is clamped to the limits of the neighbourhood. */
  clean?: boolean;
  shaper?: boolean;
}
/** The structure of consecutive ops. */
export type Structure = readonly OpText[];

/** The structure of baked ops. */
export const structureOf = (ops: readonly BakedOp[]): Structure =>
  ops.map((op) => ({
    kind: op.kind === 'table' ? 'table' : op.step,
    ...(op.kind === 'stencil' ? { stencil: 'acts' as const } : {}),
    ...(op.mix ? { mix: op.kind === 'table' && !op.own ? ('own' as const) : ('carried' as const) } : {}),
    ...(op.mix?.clean === undefined ? {} : { clean: true }),
    ...(op.kind === 'table' && op.table.shaper ? { shaper: true } : {}),
  }));

const mapUniforms = (name: string): string =>
  `uniform highp sampler2D ${name}; uniform vec4 ${name}_cells; uniform bool ${name}_repeats;`;
const mapOf = (name: string): string => `mapAt(${name}, ${name}_cells, ${name}_repeats, uv, luma)`;

function uniformsOf({ kind, stencil, mix, clean, shaper }: OpText, k: number): string {
  const own =
    kind === 'table'
      ? `uniform highp sampler3D u_table${k}; uniform int u_size${k}; uniform vec2 u_domain${k};`
      : `uniform highp sampler2D u_data${k};`;
  return [
    own,
    ...(kind === 'table' || stencil ? [] : [mapUniforms(`u_map${k}`)]),
    ...(mix ? [`uniform vec4 u_join${k}; uniform ivec2 u_mask${k};`] : []),
    ...(clean ? [mapUniforms(`u_around${k}`)] : []),
    ...(shaper
      ? [
          `uniform highp sampler2D u_shaper${k}; uniform int u_entries${k}; uniform vec3 u_low${k}; uniform vec3 u_high${k};`,
        ]
      : []),
  ].join('\n');
}

const LUMA_WEIGHTS = 'vec3(0.2126, 0.7152, 0.0722)';

/** A spatial step's function on an encoded colour. */
const pointOf = (kind: string, reads: string): string =>
  stepKind(kind).formula!.light === 'linear' ? `encode(${kind}(decode(c.rgb), ${reads}))` : `${kind}(c.rgb, ${reads})`;

function callOf({ kind, stencil, mix, clean, shaper }: OpText, k: number): string {
  if (stencil === 'idle') return '';
  const entering = shaper ? `shape(u_shaper${k}, u_entries${k}, u_low${k}, u_high${k}, c.rgb)` : 'c.rgb';
  const near = kind !== 'table' && stepKind(kind).formula!.neighbours ? 'blurred()' : `dot(blurred(), ${LUMA_WEIGHTS})`;
  const reads = `${stencil ? near : mapOf(`u_map${k}`)}, u_data${k}`;
  const out =
    kind === 'table'
      ? `lookUp(u_table${k}, u_size${k}, u_domain${k}, ${entering})`
      : `vec4(${pointOf(kind, reads)}, 0.0)`;
  if (!mix) return `  c = ${out};`;
  const chosen = mix === 'own' ? 'to.a' : 'c.a';
  const a = clean ? `cleaned(${chosen}, ${mapOf(`u_around${k}`)})` : chosen;
  return `  {
    vec4 to = ${out};
    float amount = amountOf(u_join${k}, maskAt(u_mask${k}, uv), ${a});
    if (u_chosen == ${k}) chosen = amount;
    c = vec4(mix(c.rgb, to.rgb, amount), 0.0);
  }`;
}

/** Ops from `from` (inclusive) to `to` (exclusive) that run in one pass. */
export interface Pass {
  from: number;
  to: number;
}

/** Splits a structure before each stencil, which reads what the pass before has drawn. */
export function passesOf(structure: Structure): Pass[] {
  const begins = structure.flatMap(({ stencil }, k) => (stencil === 'acts' ? [k] : []));
  return [0, ...begins].map((from, i) => ({ from, to: begins[i] ?? structure.length }));
}

/** Whether any op in a pass needs a map, and so the file's luma. */
export const readsLuma = (structure: Structure, { from, to }: Pass): boolean =>
  structure.slice(from, to).some((op) => op.clean || (op.kind !== 'table' && !op.stencil));

/** Maximum number of neighbours that a stencil samples on either side; beyond it they are spaced further apart. */
export const MOST_TAPS = 48;

const NEIGHBOURS = `
uniform sampler2D u_before;       // what enters: encoded colour, and what it chooses for the next op
uniform sampler2D u_across;       // the same, blurred along the rows
uniform sampler2D u_chosenBefore; // how much the region that is shown chose so far
uniform vec2 u_size;              // of those
uniform vec2 u_offset;            // where this picture's first pixel lies among those, downwards
uniform float u_taps[${MOST_TAPS + 1}];
uniform int u_radius;
uniform float u_apart;            // pixels between two neighbours
vec3 acrossAt(ivec2 at, float off) {
  if (u_apart == 1.0) return texelFetch(u_across, ivec2(at.x, at.y + int(off)), 0).rgb;
  return texture(u_across, (vec2(at) + 0.5 + vec2(0.0, off)) / u_size).rgb;
}
// Where this pixel lies in them, upwards as they are stored.
ivec2 pixelBefore() {
  vec2 at = v_uv * u_own + u_offset;
  return ivec2(at.x, u_size.y - at.y);
}
vec3 blurred() {
  ivec2 at = pixelBefore();
  vec3 sum = u_taps[0] * texelFetch(u_across, at, 0).rgb;
  for (int i = 1; i <= u_radius; i += 1)
    sum += u_taps[i] * (acrossAt(at, float(i) * u_apart) + acrossAt(at, -float(i) * u_apart));
  return sum;
}`;

/** Ops of a pass as GLSL: \`grade\` applies them to a colour. Op k has uniforms that end in k. */
export function gradeText(structure: Structure, { from, to }: Pass): string {
  const ops = structure.slice(from, to);
  const cleans = ops.some((s) => s.clean);
  const kinds = [...new Set(ops.map((s) => s.kind).filter((s) => s !== 'table'))];
  return `
${ops.some((s) => s.kind === 'table') ? LOOK_UP : ''}
${ops.some((s) => s.shaper) ? SHAPER : ''}
${ops.some((s) => s.mix) ? MASKS : ''}
${kinds.length ? LIGHT : ''}
${kinds.length || cleans ? MAPS : ''}
${cleans ? CLEANED : ''}
${ops[0]?.stencil === 'acts' ? NEIGHBOURS : ''}
${kinds.map((kind) => formulaToGlsl(stepKind(kind).formula!)).join('\n')}
${ops.map((op, i) => uniformsOf(op, from + i)).join('\n')}
uniform int u_chosen; // the op of the region whose choice is shown; -1: none
float chosen = 1.0;
vec4 grade(vec4 c, vec2 uv, float luma) {
${ops.map((op, i) => callOf(op, from + i)).join('\n')}
  return c;
}`;
}
