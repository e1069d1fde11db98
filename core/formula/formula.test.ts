import { randomFrom } from '../random';
import { formulaData, STEP_KINDS, stepKind } from '../steps';
import { NUMBERS, clamp, mix, smoothstep } from './algebra';
import { formulaToAssemblyScript } from './assemblyScript';
import { layoutOf, packFormula, prepareFormula, type Formula } from './formula';
import { formulaToGlsl } from './glsl';
import type { Vec3 } from '../colour/matrix';

/** Every construct of a formula. */
const ALL: Formula<'gain' | 'edge', 'bend' | 'lift' | 'e' | 'f' | 'g'> = {
  name: 'all',
  light: 'linear',
  numbers: ['gain', 'edge'],
  curves: ['bend', 'lift', 'e', 'f', 'g'],
  colour(k, { rgb: [r, g, b], plane, n, curve }) {
    const twice = k.mul(2, n.gain);
    const lit = k.select(r, n.edge, k.exp(k.sub(0, plane)), k.div(twice, k.add(1, curve.g)));
    return [
      k.mul(r, lit),
      mix(k, g, curve.bend, smoothstep(k, 0.2, 0.8, b)),
      clamp(k, k.add(b, curve.lift), 0, n.gain),
    ];
  },
};
const VALUES = {
  numbers: { gain: 1.5, edge: 0.4 },
  curves: { bend: [0, 1, 0.5], lift: [0, 0.2, 0.4], e: [1, 1, 1], f: [0, 0, 0], g: [0, 1, 2] },
};

/** Evaluates a formula function's shading-language text, which differs from this language only in its types. */
function runGlsl(text: string, data: Float32Array): (rgb: Vec3, map: number | Vec3) => number[] {
  const body = text
    .replace(/^vec3 \w+\(.*\{$/m, '')
    .replace(/\}$/, '')
    .replace(/\b(float|int|vec4) (\w+) =/g, 'const $2 =')
    .replace(/ivec2\(([^,]+), 0\)/g, '$1')
    .replace(/return vec3\((.*)\);/, 'return [$1];');
  const vec = (v: ArrayLike<number>): object => ({ x: v[0], y: v[1], z: v[2], w: v[3] });
  const among = {
    texelFetch: (_: unknown, i: number) => vec(data.subarray(4 * i, 4 * i + 4)),
    mix: (a: Record<string, number>, b: Record<string, number>, t: number) =>
      Object.fromEntries(Object.keys(a).map((c) => [c, a[c] + t * (b[c] - a[c])])),
    clamp: (v: number, low: number, high: number) => Math.min(high, Math.max(low, v)),
    ...{ min: Math.min, max: Math.max, exp: Math.exp, floor: Math.floor, int: Math.floor },
  };
  const run = new Function('rgb', 'plane', 'blurred', 'data', ...Object.keys(among), body);
  const colour = ([r, g, b]: Vec3): object => ({ r, g, b });
  return (rgb, map) => {
    const reads = typeof map === 'number' ? [map, undefined] : [undefined, colour(map)];
    return run(colour(rgb), ...reads, data, ...Object.values(among)) as number[];
  };
}

test('in plain numbers: curves between their samples and held at their ends, everything by hand', () => {
  const run = prepareFormula(ALL, VALUES);
  const at = (rgb: Vec3, plane: number): Vec3 => {
    run(rgb, plane);
    return rgb;
  };
  // At a quarter, half way to the second sample: bend 0.5, lift 0.1, g 0.5.
  expect(at([0.2, 0.3, 0.9], 0.25)).toEqual([0.2 * Math.exp(-0.25), 0.5, expect.closeTo(1, 12)]);
  expect(at([0.6, 0.3, 0.1], 0.25)).toEqual([expect.closeTo((0.6 * 3) / 1.5, 12), 0.3, expect.closeTo(0.2, 12)]);
  expect(at([0.6, 0.3, 0.5], 7)[0]).toBeCloseTo((0.6 * 3) / 3, 12);
  expect(at([0.6, 0.3, 2], -1)).toEqual([expect.closeTo(1.8, 12), 0, 1.5]);
});

test('data: numbers, the place of the last sample, then samples of as many texels as they need', () => {
  const { firstSample, texelsPerSample, lastAt } = layoutOf(ALL);
  expect([firstSample, texelsPerSample, lastAt]).toEqual([1, 2, 2]);
  const packed = packFormula(ALL, VALUES);
  expect([...packed.subarray(0, 4)]).toEqual([1.5, expect.closeTo(0.4, 6), 2, 0]);
  expect([...packed.subarray(12, 20)].map((v) => Number(v.toFixed(3)))).toEqual([1, 0.2, 1, 0, 1, 0, 0, 0]);
  expect(packed).toHaveLength(4 * (1 + 3 * 2));
});

test('the shading language says what plain numbers do', () => {
  const run = runGlsl(formulaToGlsl(ALL), packFormula(ALL, VALUES));
  const exact = prepareFormula(ALL, VALUES);
  const random = randomFrom(5);
  for (let i = 0; i < 200; i += 1) {
    const rgb: Vec3 = [random(), random(), random()];
    const plane = random();
    const shown = run(rgb, plane);
    exact(rgb, plane);
    shown.forEach((v, c) => expect(v).toBeCloseTo(rgb[c], 5));
  }
});

const spatial = STEP_KINDS.filter((kind) => kind.formula);
test('every spatial step has a formula', () => {
  expect(spatial.length).toBeGreaterThanOrEqual(3);
  expect(STEP_KINDS.filter((kind) => kind.field && !kind.formula)).toEqual([]);
});

test.each(spatial.map(({ kind }) => kind))('%s: the shading language says what plain numbers do', (kind) => {
  const { formula, valuesOf, numbers, neutral } = stepKind(kind);
  const random = randomFrom(71);
  for (let round = 0; round < 30; round += 1) {
    const params = { ...neutral } as Record<string, unknown>;
    for (const { key, min, max } of numbers) params[key] = min + (max - min) * random();
    const run = runGlsl(formulaToGlsl(formula!), formulaData(kind, params));
    const exact = prepareFormula(formula!, valuesOf!(params));
    for (let i = 0; i < 10; i += 1) {
      const any = (): Vec3 => [1.4 * random() - 0.1, 1.4 * random() - 0.1, 1.4 * random() - 0.1];
      const rgb = any();
      // Most neighbours are similar to it.
      const map = formula!.neighbours ? (rgb.map((v) => v + 0.2 * (random() - 0.5)) as Vec3) : random();
      const shown = run(rgb, map);
      exact(rgb, map);
      shown.forEach((v, c) => expect(Math.abs(v - rgb[c])).toBeLessThan(1e-4 * Math.max(1, Math.abs(rgb[c]))));
    }
  }
});

test('in the kernel, what is the same for all pixels is worked out once', () => {
  const [, whole, bare] = formulaToAssemblyScript(ALL).split('export function ');
  for (const text of [whole, bare]) {
    const [before, loop] = text.split('for (let x');
    expect(before).toContain('f32x4.mul(');
    expect(loop).not.toContain('f32x4.splat(load');
    expect(loop.match(/exp2/g)).toHaveLength(1);
    // The unused curves take no more than the samples that contain them.
    expect(loop.match(/const curve\d/g)).toHaveLength(5);
  }
  for (const part of ['encode709', 'share']) expect(whole).toContain(part);
  expect(bare).not.toMatch(/code709|share/);
});

test('plain numbers: of what is alike the second, so that nothing depends on the order', () => {
  expect([NUMBERS.min(1, 2), NUMBERS.max(1, 2), NUMBERS.select(1, 1, 3, 4)]).toEqual([1, 2, 4]);
});
