import type { Algebra, Operand } from './algebra';
import { BARE, layoutOf, type Formula } from './formula';

/** A vector of four pixels, by the name of the variable that holds it; a constant is splatted once. */
interface Lanes {
  name: string;
  same: boolean;
}

/** Prelude with the helpers that all formulas use. */
export const KERNEL_HEAD = `// Made from the formulas of the spatial steps; see core/formula.
import { clamp, decode709, encode709, exp2, mix, pmax, pmin, whole } from './light';

const LOG2_E: f32 = 1.44269504;
`;

const CHANNELS = ['r', 'g', 'b'] as const;

/**
 * A formula as two functions of the kernel (AssemblyScript) that process four pixels at a time. `data` is laid out by
 * `packFormula`; `plane` is a line of the plane's values, or the first of three lines of the neighbours' colours,
 * `step` apart. The first function has the formula's name and works in place on lines of encoded R'G'B', mixed by
 * `share`; the second, with the suffix {@link BARE}, works on lines in the formula's own light, at full strength.
 */
export function formulaToAssemblyScript(formula: Formula): string {
  const { numberAt, lastAt, firstSample, texelsPerSample } = layoutOf(formula);
  const linear = formula.light === 'linear';
  const encoded = (value: string): string => (linear ? `encode709(${value})` : value);
  const once: string[] = [];
  const each: string[] = [];
  const bind = (expression: string, same: boolean): Lanes => {
    const name = `t${once.length + each.length}`;
    (same ? once : each).push(`const ${name} = ${expression};`);
    return { name, same };
  };
  const literals = new Map<number, Lanes>();
  const lanes = (v: Operand<Lanes>): Lanes => {
    if (typeof v !== 'number') return v;
    const known = literals.get(v) ?? bind(`f32x4.splat(<f32>${v})`, true);
    literals.set(v, known);
    return known;
  };
  const call =
    (name: string) =>
    (...operands: Operand<Lanes>[]): Lanes => {
      const args = operands.map(lanes);
      return bind(
        `${name}(${args.map((a) => a.name).join(', ')})`,
        args.every((a) => a.same),
      );
    };
  const k: Algebra<Lanes> = {
    add: call('f32x4.add'),
    sub: call('f32x4.sub'),
    mul: call('f32x4.mul'),
    div: call('f32x4.div'),
    min: call('pmin'),
    max: call('pmax'),
    exp: (a) => call('exp2')(call('f32x4.mul')(a, { name: 'f32x4.splat(LOG2_E)', same: true })),
    select: (low, high, a, b) => call('v128.bitselect')(a, b, call('f32x4.lt')(low, high)),
  };
  const numberIn = (i: number): string => `load<f32>(data, ${4 * i})`;
  const n = Object.fromEntries(
    formula.numbers.map((name) => [name, bind(`f32x4.splat(${numberIn(numberAt(name))})`, true)]),
  );
  const colour = formula.colour(k, {
    rgb: CHANNELS.map((c) => (linear ? `l${c}` : `e${c}`)).map((name) => ({ name, same: false })) as [
      Lanes,
      Lanes,
      Lanes,
    ],
    plane: { name: 'at', same: false },
    blurred: CHANNELS.map((c) => ({ name: `a${c}`, same: false })) as [Lanes, Lanes, Lanes],
    n,
    curve: Object.fromEntries(formula.curves.map((name, c) => [name, { name: `curve${c}`, same: false }])),
  });
  const bytes = 16 * texelsPerSample;
  const curves = texelsPerSample
    ? [
        `const place = f32x4.mul(clamp(at, 0, 1), f32x4.splat(last));`,
        `const low = pmin(f32x4.splat(last - 1), f32x4.trunc(place));`,
        `const f = f32x4.sub(place, low);`,
        `const cells = i32x4.mul(whole(low), i32x4.splat(${bytes}));`,
        ...[0, 1, 2, 3].flatMap((p) => [
          `const p${p} = data + ${16 * firstSample} + <usize>i32x4.extract_lane(cells, ${p});`,
          `const f${p} = v128.shuffle<i32>(f, f, ${p}, ${p}, ${p}, ${p});`,
        ]),
        ...Array.from({ length: texelsPerSample }, (_, q) => q).flatMap((q) => quadOf(q, bytes, formula.curves.length)),
      ]
    : [];
  const around = formula.neighbours
    ? CHANNELS.map((c, i) => `const a${c} = v128.load(plane + ${i} * step + o);`)
    : ['const at = v128.load(plane + o);'];
  const loop = (read: readonly string[], write: readonly string[]): string =>
    [
      ...once,
      ...(texelsPerSample ? [`const last = ${numberIn(lastAt)};`] : []),
      'for (let x = 0; x < count; x += 4) {',
      ...['const o = (<usize>x) << 2;', ...around, ...curves, ...read, ...each, ...write].map((line) => `  ${line}`),
      '}',
    ]
      .map((line) => `  ${line}`)
      .join('\n');
  const results = colour.map((c) => lanes(c).name);
  const mixed = loop(
    CHANNELS.flatMap((c) => [
      `const e${c} = v128.load(${c} + o);`,
      ...(linear ? [`const l${c} = decode709(e${c});`] : []),
    ]),
    [
      'const s = v128.load(share + o);',
      ...CHANNELS.map((c, i) => `v128.store(${c} + o, mix(e${c}, ${encoded(results[i])}, s));`),
    ],
  );
  const bare = loop(
    CHANNELS.map((c) => `const ${linear ? 'l' : 'e'}${c} = v128.load(${c} + o);`),
    CHANNELS.map((c, i) => `v128.store(${c} + o, ${results[i]});`),
  );
  const lines = 'r: usize, g: usize, b: usize, count: i32';
  const plane = `plane: usize${formula.neighbours ? ', step: usize' : ''}`;
  return `export function ${formula.name}(data: usize, ${plane}, share: usize, ${lines}): void {
${mixed}
}

export function ${formula.name}${BARE}(data: usize, ${plane}, ${lines}): void {
${bare}
}
`;
}

/** Samples of four pixels from up to four curves, transposed to one vector per curve. */
function quadOf(q: number, bytes: number, curves: number): string[] {
  const at = (further: number): number => 16 * q + further * bytes;
  const v = (p: number): string => `v${q}${p}`;
  const turned = [
    `v128.shuffle<i64>(a${q}, b${q}, 0, 2)`,
    `v128.shuffle<i64>(a${q}, b${q}, 1, 3)`,
    `v128.shuffle<i64>(d${q}, e${q}, 0, 2)`,
    `v128.shuffle<i64>(d${q}, e${q}, 1, 3)`,
  ];
  return [
    ...[0, 1, 2, 3].map((p) => `const ${v(p)} = mix(v128.load(p${p}, ${at(0)}), v128.load(p${p}, ${at(1)}), f${p});`),
    `const a${q} = v128.shuffle<i32>(${v(0)}, ${v(1)}, 0, 4, 1, 5);`,
    `const b${q} = v128.shuffle<i32>(${v(2)}, ${v(3)}, 0, 4, 1, 5);`,
    `const d${q} = v128.shuffle<i32>(${v(0)}, ${v(1)}, 2, 6, 3, 7);`,
    `const e${q} = v128.shuffle<i32>(${v(2)}, ${v(3)}, 2, 6, 3, 7);`,
    ...turned.flatMap((text, lane) => (4 * q + lane < curves ? [`const curve${4 * q + lane} = ${text};`] : [])),
  ];
}
