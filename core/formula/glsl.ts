import type { Algebra, Operand } from './algebra';
import { layoutOf, type Formula } from './formula';

const LANES = ['x', 'y', 'z', 'w'];

/** A number as a GLSL literal: always with a decimal point. */
function literal(v: number): string {
  const text = String(v);
  return /[.e]/.test(text) ? text : `${text}.0`;
}

/**
 * A formula as a GLSL ES 3.00 function: from `vec3 rgb` (in its own light), `float plane` (0–1) or `vec3 blurred` (the
 * neighbours' colour), and `sampler2D data` (laid out by `packFormula`, one texel high) to a colour in that light.
 */
export function formulaToGlsl(formula: Formula): string {
  const { numberAt, lastAt, firstSample, texelsPerSample } = layoutOf(formula);
  const lines: string[] = [];
  const bind = (expression: string): string => {
    const name = `t${lines.length}`;
    lines.push(`  float ${name} = ${expression};`);
    return name;
  };
  const text = (v: Operand<string>): string => (typeof v === 'number' ? literal(v) : v);
  const between =
    (sign: string) =>
    (a: Operand<string>, b: Operand<string>): string =>
      bind(`${text(a)} ${sign} ${text(b)}`);
  const call =
    (name: string) =>
    (...args: Operand<string>[]): string =>
      bind(`${name}(${args.map(text).join(', ')})`);
  const k: Algebra<string> = {
    add: between('+'),
    sub: between('-'),
    mul: between('*'),
    div: between('/'),
    min: call('min'),
    max: call('max'),
    exp: call('exp'),
    select: (low, high, a, b) => bind(`${text(low)} < ${text(high)} ? ${text(a)} : ${text(b)}`),
  };
  const inTexel = (texel: string, i: number): string => `${texel}.${LANES[i % 4]}`;
  const numberIn = (i: number): string => inTexel(`n${Math.floor(i / 4)}`, i);
  const colour = formula.colour(k, {
    rgb: ['rgb.r', 'rgb.g', 'rgb.b'],
    plane: 'plane',
    blurred: ['blurred.r', 'blurred.g', 'blurred.b'],
    n: Object.fromEntries(formula.numbers.map((name) => [name, numberIn(numberAt(name))])),
    curve: Object.fromEntries(formula.curves.map((name, c) => [name, inTexel(`c${Math.floor(c / 4)}`, c)])),
  });
  const texels = Array.from({ length: firstSample }, (_, i) => `  vec4 n${i} = texelFetch(data, ivec2(${i}, 0), 0);`);
  const sample = (q: number, further: number): string =>
    `texelFetch(data, ivec2(${firstSample + q + further * texelsPerSample} + cell, 0), 0)`;
  const curves = texelsPerSample
    ? [
        `  float place = clamp(plane, 0.0, 1.0) * ${numberIn(lastAt)};`,
        `  float low = min(floor(place), ${numberIn(lastAt)} - 1.0);`,
        `  int cell = ${texelsPerSample} * int(low);`,
        ...Array.from(
          { length: texelsPerSample },
          (_, q) => `  vec4 c${q} = mix(${sample(q, 0)}, ${sample(q, 1)}, place - low);`,
        ),
      ]
    : [];
  const reads = formula.neighbours ? 'vec3 blurred' : 'float plane';
  return `vec3 ${formula.name}(vec3 rgb, ${reads}, highp sampler2D data) {
${[...texels, ...curves, ...lines].join('\n')}
  return vec3(${colour.map(text).join(', ')});
}`;
}
