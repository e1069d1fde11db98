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
uniform highp sampler3D u_table;
uniform int u_size;
uniform vec2 u_domain;
vec3 node(ivec3 p) { return texelFetch(u_table, p, 0).rgb; }
// Tetrahedral interpolation: walk from the low corner to the high corner along the axes in order of their fractions.
vec3 lookUp(vec3 c) {
  float top = float(u_size - 1);
  vec3 p = clamp((c - u_domain.x) * (top / (u_domain.y - u_domain.x)), 0.0, top);
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
  return (1.0 - hi) * node(i) + (hi - mid) * node(i + a) + (mid - lo) * node(i + b) + lo * node(i + 1);
}`;

const DECODE = `
uniform vec4 u_scale;   // y offset, 1 / y scale, c offset, 1 / c scale
uniform vec4 u_matrix;  // R from Cr, G from Cb, G from Cr, B from Cb
vec3 toRgb(vec3 code) {
  float y = (code.x - u_scale.x) * u_scale.y;
  vec2 c = (code.yz - u_scale.z) * u_scale.w;
  return vec3(y + u_matrix.x * c.y, y + u_matrix.y * c.x + u_matrix.z * c.y, y + u_matrix.w * c.x);
}`;

const MAIN = `
uniform bool u_graded;
uniform int u_overlay;      // 0 none, 1 zones, 2 clipping
uniform vec2 u_ends;        // code values at which the file has lost detail
uniform float u_tolerance;  // beyond 0 and 1 by less than this nothing is lost
out vec4 o_colour;
// Eleven flat greys, one for each tenth of luma.
vec3 zones(vec3 rgb) {
  return vec3(clamp(floor(dot(rgb, vec3(0.2126, 0.7152, 0.0722)) * 10.0 + 0.5), 0.0, 10.0) / 10.0);
}
// Stripes where the file had lost it, checks where the grade loses it.
vec3 clipping(vec3 code, vec3 rgb, vec3 shown) {
  vec2 at = gl_FragCoord.xy;
  if (any(greaterThanEqual(code, vec3(u_ends.y))) || any(lessThanEqual(code, vec3(u_ends.x))))
    return vec3(mod(at.x + at.y, 12.0) < 6.0 ? 1.0 : 0.0);
  if (any(greaterThan(rgb, vec3(1.0 + u_tolerance))) || any(lessThan(rgb, vec3(-u_tolerance))))
    return vec3(mod(floor(at.x / 5.0) + floor(at.y / 5.0), 2.0) < 1.0 ? 1.0 : 0.0);
  return shown;
}
void main() {
  vec3 code = toRgb(readCode());
  vec3 rgb = u_graded ? lookUp(code) : code;
  vec3 shown = clamp(rgb, 0.0, 1.0);
  if (u_overlay == 1) shown = zones(shown);
  if (u_overlay == 2) shown = clipping(code, rgb, shown);
  o_colour = vec4(shown, 1.0);
}`;

/** A frame at rest: one RGBA16UI texture of Y', Cb, Cr code values; u_view is the part shown: x, y, width, height. */
export const REST_FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
in vec2 v_uv;
uniform highp usampler2D u_frame;
uniform vec4 u_view;
${DECODE}
${LOOK_UP}
vec3 readCode() {
  ivec2 size = textureSize(u_frame, 0);
  vec2 at = (u_view.xy + v_uv * u_view.zw) * vec2(size) - 0.5;
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
export const MOVING_FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
in vec2 v_uv;
uniform sampler2D u_frame;
uniform vec4 u_view;
${DECODE}
${LOOK_UP}
vec3 readCode() {
  vec3 c = texture(u_frame, u_view.xy + v_uv * u_view.zw).rgb;
  float y = dot(c, vec3(0.2126, 0.7152, 0.0722));
  return vec3(y, (c.b - y) / 1.8556 + 128.0 / 255.0, (c.r - y) / 1.5748 + 128.0 / 255.0) * 255.0;
}
${MAIN}`;
