import fc from 'fast-check';
import type { Vec3 } from '../colour/matrix';
import { LUMINANCE } from '../colour/primaries';
import { bt709, hlg, pq } from '../colour/transfer';
import { luma709, rgbToYcbcr } from '../colour/ycbcr';
import { PROFILES } from '../model/profile';
import { balance } from './balance';
import { pickNeutral } from './balance/pick';
import { convert } from './convert';
import { GAMUT_THRESHOLD } from './convert/gamut';
import { linearToSignal, signalToLinear } from './convert/transfer';
import { STEP_KINDS, stepKind } from './index';
import { editableNumber, formatNumber, parseNumber } from './numbers';
import { range } from './range';
import { saturation } from './saturation';
import { colour, expectNear, run } from './testRun';

const luminance = (c: Vec3) => LUMINANCE[0] * c[0] + LUMINANCE[1] * c[1] + LUMINANCE[2] * c[2];

describe.each(STEP_KINDS.map((k) => [k.kind, k] as const))('%s', (_name, kind) => {
  test('missing parameters are the neutral ones, and neutral is told', () => {
    expect(kind.schema.parse({})).toEqual(kind.neutral);
    expect(kind.isNeutral(kind.neutral)).toBe(true);
  });

  test('numbers stay within what the schema takes, their neutral value included', () => {
    for (const n of kind.numbers) {
      expect(n.neutral).toBeGreaterThanOrEqual(n.min);
      expect(n.neutral).toBeLessThanOrEqual(n.max);
      expect(kind.schema.safeParse({ [n.key]: n.max }).success).toBe(true);
      expect(kind.schema.safeParse({ [n.key]: n.max + 1e-3 + Math.abs(n.max) }).success).toBe(false);
    }
  });

  test('gives finite numbers for every finite colour, at every limit of every number', () => {
    for (const n of kind.numbers) {
      for (const value of [n.min, n.max]) {
        const apply = kind.prepare(kind.schema.parse({ ...kind.neutral, [n.key]: value }));
        fc.assert(
          fc.property(colour, (c) => {
            const out: Vec3 = [...c];
            apply(out);
            return out.every(Number.isFinite);
          }),
          { numRuns: 60 },
        );
      }
    }
  });
});

/** A table's effect is in its file. */
const COMPUTED = STEP_KINDS.filter((k) => k.kind !== 'lut');
/** Parameters with a few allowed values, besides those that a kind lists. */
const METHODS: Record<string, Record<string, readonly string[]>> = {
  balance: { method: ['white', 'recorded', 'gains'], adaptation: ['bradford', 'cat16'] },
};

test.each(COMPUTED.map((k) => [k.kind, k] as const))(
  '%s: finite at the limits of several numbers at once',
  (_name, kind) => {
    const chosen = {
      ...Object.fromEntries((kind.choices ?? []).map((c) => [c.key, c.options.map((o) => o.value)])),
      ...METHODS[kind.kind],
    };
    const params = fc.record({
      ...Object.fromEntries(kind.numbers.map((n) => [n.key, fc.constantFrom(n.min, n.neutral, n.max)])),
      ...Object.fromEntries(Object.entries(chosen).map(([key, values]) => [key, fc.constantFrom(...values)])),
    });
    fc.assert(
      fc.property(params, colour, (p, c) => {
        const parsed = kind.schema.safeParse({ ...kind.neutral, ...p });
        // Some numbers must be in order, which the schema enforces.
        if (!parsed.success) return true;
        const out: Vec3 = [...c];
        kind.prepare(parsed.data)(out, 0.5);
        return out.every(Number.isFinite);
      }),
      { numRuns: 400 },
    );
  },
);

test('an unknown kind is named in the error', () => {
  expect(() => stepKind('glue')).toThrow('"glue"');
});

describe('convert', () => {
  test.each(PROFILES.map((p) => [p.name, p] as const))(
    '%s: linear light comes back from its signal',
    (_name, profile) => {
      const [to, from] = [signalToLinear(profile.transfer), linearToSignal(profile.transfer)];
      for (const l of [0.001, 0.02, 0.18, 0.5, 0.9, 1.5]) expect(to(from(l))).toBeCloseTo(l, 6);
    },
  );

  test('HLG at 75 % and PQ at 203 cd/m² are reference white (BT.2408)', () => {
    expect(signalToLinear({ kind: 'hlg' })(0.75)).toBeCloseTo(1, 9);
    expect(signalToLinear({ kind: 'pq' })(pq.encode(0.0203))).toBeCloseTo(1, 9);
    expect(signalToLinear({ kind: 'hlg' })(0.5)).toBeCloseTo(1 / 12 / hlg.decode(0.75), 9);
  });

  test('an exposure offset of one stop doubles linear light', () => {
    const profile = PROFILES[2];
    const a = run(convert, { profile }, [0.5, 0.5, 0.5]);
    const b = run(convert, { profile, exposure: 1 }, [0.5, 0.5, 0.5]);
    b.forEach((v, i) => expect(v / a[i]).toBeCloseTo(2, 9));
  });

  test('the roll-off leaves what is below its start alone, never passes 1, and has no break in slope', () => {
    const at = (v: number): number => bt709.encode(run(convert, { rollOff: 0.8 }, [v, v, v])[0]);
    expect(at(0.79)).toBeCloseTo(0.79, 9);
    let last = 0;
    for (let v = 0; v < 4; v += 0.01) {
      expect(at(v)).toBeGreaterThan(last - 1e-12);
      expect(at(v)).toBeLessThan(1);
      last = at(v);
    }
    const e = 1e-5;
    expect((at(0.8 + e) - at(0.8)) / e).toBeCloseTo((at(0.8) - at(0.8 - e)) / e, 3);
  });

  test('gamut compression leaves colours inside alone and brings far ones in', () => {
    const profile = PROFILES[1];
    const grey = run(convert, { profile }, [0.5, 0.5, 0.5]);
    expectNear(grey, run(convert, { profile, gamut: 0 }, [0.5, 0.5, 0.5]));
    const wild: Vec3 = [0.2, 0.7, 0.2];
    const raw = run(convert, { profile, gamut: 0 }, wild);
    const held = run(convert, { profile }, wild);
    expect(Math.min(...raw)).toBeLessThan(0);
    expect(Math.min(...held)).toBeGreaterThan(Math.min(...raw));
    const distance = 1 - Math.min(...held) / Math.max(...held);
    expect(distance).toBeGreaterThan(GAMUT_THRESHOLD);
  });
});

describe('balance', () => {
  test('held to a band it takes the whole cast of that band and leaves the far end alone', () => {
    const params = { kelvin: 4300, band: 'highlights' };
    const [dark, bright]: Vec3[] = [
      [0.01, 0.01, 0.01],
      [0.85, 0.85, 0.85],
    ];
    expectNear(run(balance, params, dark), dark);
    expectNear(run(balance, params, bright), run(balance, { kelvin: 4300 }, bright));
    // Three steps, one for each band, equal the step for everything.
    const middle: Vec3 = [0.2, 0.25, 0.3];
    const parts = ['shadows', 'midtones', 'highlights'].map((band) => run(balance, { kelvin: 4300, band }, middle));
    const whole = run(balance, { kelvin: 4300 }, middle);
    whole.forEach((v, c) => expect(parts.reduce((a, p) => a + p[c] - middle[c], 0)).toBeCloseTo(v - middle[c], 9));
  });

  test('makes the white it is told neutral and keeps its luminance', () => {
    const lit: Vec3 = [0.7, 0.5, 0.3];
    const picked = pickNeutral({ linear: Float64Array.from(lit), clipped: 0 });
    if (!picked.ok) throw new Error(picked.text);
    const out = run(balance, picked.params, lit);
    expect(Math.max(...out) - Math.min(...out)).toBeLessThan(1e-4);
    expect(luminance(out)).toBeCloseTo(luminance(lit), 4);
  });

  test('green water is far from daylight: gains, held to the limit, and the text says so', () => {
    const picked = pickNeutral({ linear: Float64Array.from([0.02, 0.5, 0.3]), clipped: 0 });
    expect(picked).toMatchObject({ ok: true, params: { method: 'gains' } });
    expect(picked.text).toContain('Held to 3 stops');
  });

  test('recorded and should be the same is an identity; 4300 K under 5500 K warms', () => {
    expect(balance.isNeutral(balance.schema.parse({ method: 'recorded', recorded: 4300, should: 4300 }))).toBe(true);
    const [r, , b] = run(balance, { method: 'recorded', recorded: 4300, should: 5500 }, [0.3, 0.3, 0.3]);
    expect(r).toBeGreaterThan(0.3);
    expect(b).toBeLessThan(0.3);
  });

  test.each([
    ['clipped', { linear: Float64Array.from([1, 1, 1]), clipped: 0.4 }],
    ['dark', { linear: Float64Array.from([0.001, 0.001, 0.001]), clipped: 0 }],
    ['coloured', { linear: Float64Array.from([0.5, 0.001, 0.001]), clipped: 0 }],
    [
      'mixed',
      {
        linear: Float64Array.from({ length: 192 }, (_, i) => (i < 96 ? [0.5, 0.1, 0.1] : [0.1, 0.1, 0.5])[i % 3]),
        clipped: 0,
      },
    ],
  ] as const)('a %s sample is refused with a sentence', (reason, sample) => {
    const picked = pickNeutral(sample);
    expect(picked).toMatchObject({ ok: false, reason });
    expect(picked.text).toMatch(/[Pp]ick|Drag/);
  });
});

describe('range', () => {
  const at = (params: object, v: number): number => run(range, params, [v, v, v])[0];
  test('black and white say where the ends land', () => {
    expect(at({ black: -0.04 }, 0)).toBeCloseTo(-0.04, 12);
    expect(at({ black: -0.04 }, 1)).toBeCloseTo(1, 12);
    expect(at({ white: 0.1 }, 1)).toBeCloseTo(1.1, 12);
  });
  test('contrast keeps its pivot; mid moves one half; a stop doubles light', () => {
    expect(at({ contrast: 1.5, pivot: 0.41 }, 0.41)).toBeCloseTo(0.41, 12);
    expect(at({ mid: 0.1 }, 0.5)).toBeCloseTo(0.6, 12);
    expect(bt709.decode(at({ exposure: 1 }, 0.4))).toBeCloseTo(2 * bt709.decode(0.4), 9);
  });
  test('every tone curve rises, and soft ends stay between 0 and 1', () => {
    const params = { mid: -0.2, contrast: 1.8, level1: 0.2, level2: -0.2, soft: 0.1, black: 0.05 };
    let last = -1;
    for (let v = -0.2; v < 1.3; v += 0.004) {
      const y = at(params, v);
      expect(y).toBeGreaterThanOrEqual(last);
      expect(y).toBeGreaterThan(0);
      expect(y).toBeLessThan(1);
      last = y;
    }
  });
  test('five levels pass through the points they are given', () => {
    expect(at({ level1: 0.05, level3: -0.05 }, 0.25)).toBeCloseTo(0.3, 9);
    expect(at({ level1: 0.05, level3: -0.05 }, 0.75)).toBeCloseTo(0.7, 9);
    expect(at({ level1: 0.05, level3: -0.05 }, 0.5)).toBeCloseTo(0.5, 9);
  });
});

describe('saturation', () => {
  test('keeps luma and hue; 0 is black and white', () => {
    fc.assert(
      fc.property(colour, (c) => {
        const out = run(saturation, { amount: 1.7 }, c);
        const [y0, cb0, cr0] = rgbToYcbcr(c, 'bt709');
        const [y1, cb1, cr1] = rgbToYcbcr(out, 'bt709');
        return Math.abs(y0 - y1) < 1e-9 && Math.abs(cb0 * cr1 - cr0 * cb1) < 1e-9;
      }),
    );
    const grey = run(saturation, { amount: 0 }, [0.2, 0.5, 0.7]);
    grey.forEach((v) => expect(v).toBeCloseTo(luma709(0.2, 0.5, 0.7), 12));
  });
  test('weak colours are lifted more than strong ones, skin is left', () => {
    const gain = (c: Vec3) => {
      const out = run(saturation, { weak: 1 }, c);
      return (out[0] - out[2]) / (c[0] - c[2]);
    };
    const weakBlue: Vec3 = [0.45, 0.5, 0.55];
    const strongBlue: Vec3 = [0.05, 0.1, 0.95];
    const skin: Vec3 = [0.66, 0.5, 0.41];
    expect(gain(weakBlue)).toBeGreaterThan(1.7);
    expect(gain(strongBlue)).toBeLessThan(1.1);
    expect(gain(skin)).toBeLessThan(1.15);
  });
});

describe('numbers as they are shown and typed', () => {
  const percent = { unit: 'percent', min: -0.6, max: 0.6 } as const;
  test('shown with sign and unit', () => {
    expect(formatNumber(percent, -0.042)).toBe('−4.2 %');
    expect(formatNumber({ unit: 'stop', min: -5 }, 0.35)).toBe('+0.35 stop');
    expect(formatNumber({ unit: 'kelvin', min: 1667 }, 5480.4)).toBe('5480 K');
  });
  test('typed numbers are clamped to their limits; NaN is no number', () => {
    expect(parseNumber(percent, '−4,2')).toBeCloseTo(-0.042, 12);
    expect(parseNumber(percent, '900')).toBe(0.6);
    expect(parseNumber(percent, 'abc')).toBeUndefined();
    expect(parseNumber(percent, editableNumber(percent, -0.1))).toBeCloseTo(-0.1, 9);
  });
});
