/**
 * Light in front of a thing is taken off by subtraction down to so many times its own level; below, by a power of the
 * light that meets the line there with the same slope, 1.25 / (1.25 − 1) = 5. So nothing dark falls below black, no
 * noise is raised beyond the power, and the logarithm of the correction changes at most five times as fast as that of
 * the light: a veil that is taken for denser than it is leaves dark tones, not holes.
 */
export const KNEE = 1.25;

/** Light without a veil of so much light (both linear; the veil at or above 0). */
export function takeVeil(light: number, veil: number): number {
  if (light <= 0 || light >= KNEE * veil) return light > 0 ? light - veil : light;
  const q = light / (KNEE * veil);
  const q2 = q * q;
  return (KNEE - 1) * veil * q2 * q2 * q;
}

/** The same in the shading language, three channels at a time. */
export const TAKE_VEIL_GLSL = `
vec3 takeVeil(vec3 light, vec3 veil) {
  // Held to 1, where the power is not used: a large one would be infinite.
  vec3 q = min(vec3(1.0), light / max(vec3(1e-9), ${KNEE} * veil));
  vec3 q2 = q * q;
  vec3 toe = ${(KNEE - 1).toFixed(4)} * veil * q2 * q2 * q;
  vec3 above = mix(toe, light - veil, step(${KNEE} * veil, light));
  return mix(light, above, step(vec3(1e-12), light));
}`;
