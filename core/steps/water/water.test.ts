import fc from 'fast-check';
import { bt709 } from '../../colour/transfer';
import { luma709 } from '../../colour/ycbcr';
import type { Vec3 } from '../../colour/matrix';
import { newStep, storedSteps } from '../../model/grade';
import { ciede2000 } from '../../colour/difference';
import { encodedToLab } from '../../colour/lab';
import { PROFILES } from '../../model/profile';
import { bakeOps } from '../../program/baked';
import { RowGrader } from '../../program/cpu/rowGrader';
import { compile } from '../../program/compile';
import { evaluate } from '../../program/evaluate';
import { Baker } from '../../program/baker';
import { NUMBERS } from '../../formula/algebra';
import type { LinearPicture, SeenField } from '../../fields/map';
import { removeVeilIn } from '../../fields/removeVeil';
import { haze } from '../haze';
import { water, waterLeft, type WaterParams } from './index';
import { depthForNeutral, fitNeutral } from './pick';
import { ACROSS, downwelling, lightLeft, openWater, WATER_TYPES } from './waters';

const params = (part: Partial<WaterParams>): WaterParams => water.schema.parse(part);
const run = (p: Partial<WaterParams>, rgb: Vec3, map = 0): Vec3 => {
  const out: Vec3 = [...rgb];
  water.prepare(params(p))(out, map);
  return out;
};

test('light is lost by Beer–Lambert: band by band, so half the way leaves more than the square root', () => {
  // By hand: type C1 at 550 nm loses 0.12 a metre, so 10 m leave e^−1.2 = 30.1 %.
  expect(Math.exp(-downwelling('C1')[6] * 10)).toBeCloseTo(0.3012, 4);
  for (const type of WATER_TYPES) {
    expect(lightLeft(type, 0, 0)).toEqual([1, 1, 1].map((v) => expect.closeTo(v, 12)));
    const [half, whole] = [lightLeft(type, 5, 0), lightLeft(type, 10, 0)];
    // A sum of exponentials decays ever more slowly.
    for (let c = 0; c < 3; c += 1) expect(whole[c]).toBeGreaterThanOrEqual(half[c] ** 2 - 1e-12);
    expect(lightLeft(type, 0, 5)[1]).toBeCloseTo(lightLeft(type, 5 * ACROSS, 0)[1], 12);
    expect(lightLeft(type, 6, 0, 2)[0]).toBeCloseTo(lightLeft(type, 12, 0)[0], 12);
  }
});

test('types are ordered from clear to murky, and take red first, except the murkiest', () => {
  const green = WATER_TYPES.map((t) => lightLeft(t, 5, 0)[1]);
  expect([...green].sort((a, b) => b - a)).toEqual(green);
  // Red is mostly gone by 5 m (common practice).
  for (const type of ['I', 'IB', 'II', 'III', 'C1'] as const) {
    const [r, g] = lightLeft(type, 5, 0);
    expect(r / g).toBeLessThan(0.65);
  }
  // The ocean is blue, the coast is green.
  const ratio = ([, g, b]: Vec3): number => b / g;
  expect(ratio(openWater('I', 5))).toBeGreaterThan(1.2);
  expect(ratio(openWater('C5', 5))).toBeLessThan(0.8);
});

test('what the model makes of a scene, the step takes back exactly, while no limit is met', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...WATER_TYPES.slice(0, 6)),
      fc.double({ min: 0, max: 6, noNaN: true }),
      fc.double({ min: 0, max: 3, noNaN: true }),
      fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 3, maxLength: 3 }),
      (type, depth, distance, scene) => {
        const veil: Vec3 = [0.1, 0.4, 0.35];
        const p: Partial<WaterParams> = {
          type,
          depth,
          distance,
          distanceFrom: 'value',
          limitRed: 6,
          limitGreen: 6,
          limitBlue: 6,
          veilRed: bt709.encode(veil[0]),
          veilGreen: bt709.encode(veil[1]),
          veilBlue: bt709.encode(veil[2]),
        };
        const [here, left] = [waterLeft(params(p), depth, 0), waterLeft(params(p), depth, distance)];
        const seen = [0, 1, 2].map((c) => scene[c] * left[c] + veil[c] * (1 - left[c] / here[c])) as Vec3;
        const norm = luma709(...here);
        const veiled = luma709(...([0, 1, 2].map((c) => veil[c] * (1 - left[c] / here[c])) as Vec3));
        const beyondKnee = scene.map((v, c) => v * left[c] - 0.25 * veil[c] * (1 - left[c] / here[c]));
        // A violet close to the veil is not trusted, see below, nor is anything that its remaining light may come from.
        const believed =
          luma709(...seen) >= 2.5 * veiled ||
          (Math.min(...beyondKnee) >= 0 && scene[1] >= Math.min(scene[0], scene[2]));
        // Light of a quarter of the veil and more is restored exactly; darker values stay dark, and above black.
        return run(p, seen).every((v, c) => {
          if (!believed) return v > -1e-12;
          return beyondKnee[c] >= 0 ? Math.abs(v - scene[c] * norm) < 1e-6 : v > -1e-12 && v >= scene[c] * norm - 1e-9;
        });
      },
    ),
  );
});

test('a dark neutral before a veil that is off in green stays near neutral; a violet that outshines the veil stays violet', () => {
  const veil = { veilRed: 0.2, veilGreen: 0.45, veilBlue: 0.35 };
  const p = { ...veil, type: 'C1', depth: 4, distance: 2, limitRed: 6, limitGreen: 6, limitBlue: 6 } as const;
  const [here, left] = [waterLeft(params(p), 4, 0), waterLeft(params(p), 4, 2)];
  const veilOff = (shares: Vec3): Vec3 =>
    Object.values(veil).map((v, c) => shares[c] * bt709.decode(v) * (1 - left[c] / here[c])) as Vec3;
  const through = (surface: Vec3, before: Vec3): Vec3 => surface.map((v, c) => v * left[c] + before[c]) as Vec3;
  const apart = ([r, g, b]: Vec3): number => (Math.min(r, b) - g) / Math.max(r, g, b);
  // A fifth less green veil than the step removes: the remaining green falls far below the others.
  const dark = run(p, through([0.02, 0.02, 0.02], veilOff([1, 0.8, 1])));
  expect(apart(dark)).toBeLessThan(0.1);
  const violet = through([0.8, 0.1, 0.8], veilOff([1, 1, 1]));
  expect(apart(run(p, violet))).toBeGreaterThan(0.6);
  const blue = run(p, through([0.005, 0.005, 0.15], veilOff([1, 1, 1])));
  expect(Math.max(blue[0], blue[1]) / blue[2]).toBeLessThan(0.2);
  // Without a veil nothing is doubtful.
  const clear = run({ ...p, veilRed: 0, veilGreen: 0, veilBlue: 0 }, through([0.02, 0.001, 0.02], [0, 0, 0]));
  expect(apart(clear)).toBeGreaterThan(0.9);
});

test('neutral parameters change nothing, to the last bit, and a neutral keeps its luminance', () => {
  expect(water.isNeutral(water.neutral)).toBe(true);
  expect(compile([newStep('water', 'w')], 0).ops).toHaveLength(0);
  const p: Partial<WaterParams> = { type: 'II', depth: 8, limitRed: 6, limitBlue: 6 };
  const seen = waterLeft(params(p), 8, 0).map((v) => 0.5 * v) as Vec3;
  const out = run(p, seen);
  expect(luma709(...out)).toBeCloseTo(luma709(...seen), 10);
  expect(Math.max(...out) - Math.min(...out)).toBeLessThan(1e-10);
});

test('red that the limit keeps back is rebuilt from green: a neutral stays neutral, and red’s noise is held', () => {
  const p: Partial<WaterParams> = { type: 'IB', depth: 25, limitRed: 2, limitBlue: 6 };
  const seen = waterLeft(params(p), 25, 0).map((v) => 0.6 * v) as Vec3;
  const out = run(p, seen);
  expect(out[0]).toBeCloseTo(out[1], 8);
  const raised = run(p, [seen[0] + 0.001, seen[1], seen[2]]);
  expect((raised[0] - out[0]) / 0.001).toBeLessThanOrEqual(4.0001);
  expect(run({ ...p, rebuild: 0 }, seen)[0]).toBeLessThan(out[0]);
});

test('open water far away keeps its colour, or turns greener or bluer at the same luminance', () => {
  const open = { veilRed: 0.25, veilGreen: 0.6, veilBlue: 0.55, depth: 6 };
  const seen = [0.25, 0.6, 0.55].map(bt709.decode) as Vec3;
  run(open, seen, 1).forEach((v, c) => expect(v).toBeCloseTo(seen[c], 6));
  const blue = run({ ...open, waterTint: 0.6 }, seen, 1);
  expect(blue[2] / blue[1]).toBeGreaterThan((seen[2] / seen[1]) * 1.3);
  expect(luma709(...blue)).toBeCloseTo(luma709(...seen), 6);
});

const AT_ONE_DISTANCE = { type: 'C1', distanceFrom: 'value', depth: 4, distance: 1.5, veilGreen: 0.3 } as const;

test('at one distance, open water keeps the colour it has and takes the light that it would have without', () => {
  const seen: Vec3 = [0.03, 0.12, 0.1];
  const thing = run(AT_ONE_DISTANCE, seen);
  expect(thing[0] / thing[1]).toBeGreaterThan(1.5 * (seen[0] / seen[1]));
  const kept = run(AT_ONE_DISTANCE, seen, 1);
  expect(luma709(...kept)).toBeCloseTo(luma709(...thing), 9);
  for (const c of [0, 2]) expect(kept[c] / kept[1]).toBeCloseTo(seen[c] / seen[1], 9);
  // In between part of it, evenly, and none where the user keeps none.
  const reds = [0, 0.25, 0.5, 0.75, 1].map((m) => run(AT_ONE_DISTANCE, seen, m)[0]);
  expect(reds).toEqual(reds.toSorted((a, b) => b - a));
  const none = { ...AT_ONE_DISTANCE, keepWater: 0 };
  run(none, seen, 1).forEach((v, c) => expect(v).toBeCloseTo(thing[c], 12));
  expect(water.field!(params(none))).toBeUndefined();
  expect(water.field!(params(AT_ONE_DISTANCE))).toBeDefined();
});

/** A frame of blue water above ground of all levels. */
const waterAbove: LinearPicture = ((width: number, height: number) => {
  const rgb = new Float32Array(3 * width * height);
  for (let i = 0; i < width * height; i += 1) {
    const v = Math.floor(i / width) / height;
    const level = v < 0.5 ? 2 ** (1.2 * (0.5 - v)) : 2 ** (1.5 * Math.sin(i * 12.9898) * Math.sin(i * 78.233));
    rgb.set(v < 0.5 ? [0.02 * level, 0.16 * level, 0.3 * level] : [0.03 * level, 0.12 * level, 0.15 * level], 3 * i);
  }
  return { width, height, rgb };
})(64, 36);
const mapOf = (p: Partial<WaterParams>): Float32Array => (water.field!(params(p)) as SeenField).estimate(waterAbove);
const upper = (map: Float32Array): number => map.subarray(0, 64 * 14).reduce((sum, v) => sum + v, 0) / (64 * 14);

test('where distances come from the picture, what looks like open water lies at their end', () => {
  const mapped = { type: 'C1', depth: 4, veilRed: 0.2, veilGreen: 0.45, veilBlue: 0.55 } as const;
  const far = mapOf({ ...mapped, openWater: 'distance' });
  const seen = mapOf(mapped);
  expect(upper(seen)).toBeGreaterThan(0.9);
  expect(upper(seen)).toBeGreaterThan(upper(far) + 0.1);
  seen.forEach((v, i) => expect(v).toBeGreaterThanOrEqual(far[i] - 1e-6));
  // None is kept: distances are unchanged.
  expect(mapOf({ ...mapped, keepWater: 0 })).toEqual(far);
});

test('steps of before open water was told by its look leave it as they did', () => {
  const { id, kind, on, strength } = newStep('water', 'w');
  const { type, distanceFrom, depth, keepWater } = params(AT_ONE_DISTANCE);
  const [step] = storedSteps(
    JSON.stringify([{ id, kind, on, strength, params: { type, distanceFrom, depth, keepWater } }]),
  );
  expect(step).toMatchObject({ version: 2, params: { openWater: 'distance', keepWater: 1 } });
  expect(water.field!(water.schema.parse(step.params))).toBeUndefined();
  expect(newStep('water', 'w').version).toBe(2);
});

test('what is picked as neutral is a thing, also where it looks like open water', () => {
  const colour: Vec3 = [0.11, 0.34, 0.19];
  expect(fitNeutral(params(AT_ONE_DISTANCE), colour, 0)).not.toHaveProperty('keepWater');
  const fit = fitNeutral(params(AT_ONE_DISTANCE), colour, 1)!;
  expect(fit.keepWater).toBe(0);
  const out = run({ ...AT_ONE_DISTANCE, ...fit }, colour, 1);
  for (const c of [0, 2]) expect(out[c] / out[1]).toBeCloseTo(1, 4);
});

test('a picked neutral comes out neutral, through the veil as well', () => {
  const p = params({ type: 'C1', depth: 7, distance: 1, veilRed: 0.2, veilGreen: 0.45, veilBlue: 0.35 });
  const colour: Vec3 = [0.11, 0.34, 0.19];
  const fit = fitNeutral(p, colour, 0.2)!;
  const out = run({ ...p, ...fit }, colour, 0.2);
  expect(out[0] / out[1]).toBeCloseTo(1, 4);
  expect(out[2] / out[1]).toBeCloseTo(1, 4);
  expect(fitNeutral(p, [0, 0.3, 0.2], 0)).toBeNull();
  expect(fitNeutral(params({}), colour, 0)).toBeNull();
  // The depth implied by a neutral.
  expect(depthForNeutral(p, waterLeft(p, 9, 1.5), 1.5)).toBeCloseTo(9, 1);
});

test('rows on the CPU backend are as near to the exact evaluator as tables are', () => {
  const grades = [
    [
      newStep('convert', 'c', { profile: PROFILES[1] }),
      newStep('water', 'w', { type: 'C1', depth: 8, distance: 1, veilRed: 0.25, veilGreen: 0.5, veilBlue: 0.4 }),
      newStep('range', 'r', { exposure: 0.3, soft: 0.03 }),
    ],
    [
      { ...newStep('haze', 'h', { amount: 0.6, near: 0.1 }), strength: 0.7 },
      newStep('saturation', 's', { amount: 1.2 }),
    ],
  ];
  for (const steps of grades) {
    const program = compile(steps, 0);
    const width = 4000;
    const line = Float32Array.from(
      { length: width * 3 },
      (_, i) => (Math.floor(i / 3) * [0.618, 0.7549, 0.5698][i % 3]) % 1,
    );
    const code = line.slice();
    const map = 0.37;
    const flat = { width: 1, height: 1, cells: [1, 1] as const, coefficients: Float32Array.of(0, map) };
    const planes = program.planes.map(() => flat);
    new RowGrader({ ops: bakeOps(program, 65), planes }, width, 1, [0.2126, 0.7152, 0.0722], () => undefined).grade(
      0,
      line,
    );
    const clip = (v: number): number => Math.min(1, Math.max(0, v));
    const off = Array.from({ length: width }, (_, i) => {
      const exact = evaluate(
        program,
        [code[3 * i], code[3 * i + 1], code[3 * i + 2]],
        false,
        planes.map(() => map),
      );
      return ciede2000(
        encodedToLab(exact.map(clip) as Vec3),
        encodedToLab([0, 1, 2].map((c) => clip(line[3 * i + c])) as Vec3),
      );
    }).sort((a, b) => a - b);
    const [mean, high] = [off.reduce((a, b) => a + b) / width, off[Math.floor(0.99 * width)]];
    console.log(
      `${steps.map((s) => s.kind).join(', ')}: CIEDE2000 to the exact evaluator mean ${mean.toFixed(3)}, 99 % ${high.toFixed(2)}`,
    );
    expect(mean).toBeLessThan(0.15);
    expect(high).toBeLessThan(1.5);
  }
});

test('steps with planes part the tables, and incremental baking gives what baking from nothing gives', () => {
  const steps = [
    newStep('haze', 'h', { amount: 0.5 }),
    newStep('balance', 'b', { kelvin: 5800 }),
    newStep('water', 'w', { depth: 4, veilGreen: 0.5, veilBlue: 0.5 }),
    newStep('range', 'r', { black: -0.03 }),
  ];
  const baker = new Baker();
  for (const amount of [0.5, 0.7, 0.7]) {
    const changed = steps.map((s) => (s.id === 'h' ? { ...s, params: { ...s.params, amount } } : s));
    const baked = baker.bake(changed, 0, 17);
    const program = compile(changed, 0);
    expect(program.ops.map((p) => p.kind)).toEqual(['point', 'table', 'point', 'table']);
    bakeOps(program, 17).forEach((fresh, k) => {
      const pass = baked[k];
      if (fresh.kind !== 'table' || pass.kind !== 'table') return expect(pass).toEqual(fresh);
      expect(pass.table.domain).toEqual(fresh.table.domain);
      expect(fresh.table.data.reduce((m, v, i) => Math.max(m, Math.abs(v - pass.table.data[i])), 0)).toBeLessThan(1e-5);
    });
  }
});

test('haze by hand: what lies behind half its light comes back, air stays air, brighter is left alone (Koschmieder 1924)', () => {
  const air = 0.64;
  const p = haze.schema.parse({
    amount: 1,
    floor: 0.1,
    airRed: bt709.encode(air),
    airGreen: bt709.encode(air),
    airBlue: bt709.encode(air),
  });
  const apply = haze.prepare(p);
  const map = Math.log(2) / -Math.log(1 - 0.95);
  const scene = [0.3, 0.25, 0.2];
  const seen: Vec3 = scene.map((j) => j * 0.5 + air * 0.5) as Vec3;
  apply(seen, map);
  seen.forEach((v, c) => expect(v).toBeCloseTo(scene[c], 6));
  const same: Vec3 = [air, air, air];
  apply(same, 0.4);
  same.forEach((v) => expect(v).toBeCloseTo(air, 6));
  const cloud: Vec3 = [0.97, 0.98, 1];
  apply(cloud, 1);
  expect(cloud).toEqual([0.97, 0.98, 1].map((v) => expect.closeTo(v, 9)));
});

test('a veil is taken off without a seam: the logarithm of what is left changes at most five times as fast as the light', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 1e-4, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 0.8, noNaN: true }),
      (light, veil) => {
        const ratio = 1.01;
        const [a, b] = [removeVeilIn(NUMBERS, light, veil), removeVeilIn(NUMBERS, light * ratio, veil)];
        const slope = Math.log(b / a) / Math.log(ratio);
        return a > 0 && slope >= 1 - 1e-9 && slope <= 5 + 1e-6;
      },
    ),
  );
});
