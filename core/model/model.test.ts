import { FormatError } from '../formats/error';
import { readGrade, readProfile, writeGrade, writeProfile } from '../formats/json';
import { isKeyframed, valueAt } from '../regions/keyframes';
import { gradeOf, joinSteps, newStep, stepSchema, stepsSchema, type Overrides } from './grade';
import type { MediaFacts } from './facts';
import { PROFILES } from './profile';
import { warningsOf } from './warnings';

const grade = gradeOf([newStep('range', 'r', { black: -0.04 }), newStep('saturation', 's', { amount: 1.2 })], 'Test');

test('a grade comes back from its file as it was', () => {
  expect(readGrade(writeGrade(grade))).toEqual(grade);
});

test.each(PROFILES.map((p) => [p.name, p] as const))('the profile "%s" comes back from its file', (_name, profile) => {
  expect(readProfile(writeProfile(profile))).toEqual(profile);
});

test.each([
  ['no JSON', '{"format"', 'not valid JSON'],
  ['another version', writeGrade(grade).replace('"version": 1', '"version": 9'), 'version'],
  ['an unknown kind', writeGrade(grade).replace('"kind": "range"', '"kind": "glue"'), 'steps.0.kind'],
  ['a value beyond its limit', writeGrade(grade).replace('-0.04', '-4'), 'steps.0.params.black'],
  ['text for a number', writeGrade(grade).replace('-0.04', '"x"'), 'steps.0.params.black'],
  ['the same id twice', writeGrade(gradeOf([newStep('range', 'r'), newStep('range', 'r')])), 'same id'],
])('a grade file with %s is refused, and the place is named', (_what, text, where) => {
  expect(() => readGrade(text)).toThrow(FormatError);
  expect(() => readGrade(text)).toThrow(where);
});

test('keyframes hold their limits at every key and are refused where nothing can change', () => {
  const keyed = (key: string, value: number) => ({
    id: 'r',
    kind: 'range',
    params: {
      [key]: {
        keys: [
          { seconds: 0, value: 0 },
          { seconds: 1, value },
        ],
      },
    },
  });
  expect(stepSchema.safeParse(keyed('black', 0.2)).success).toBe(true);
  expect(stepSchema.safeParse(keyed('black', 9)).success).toBe(false);
  expect(stepSchema.safeParse(keyed('nonsense', 0)).success).toBe(false);
  expect(isKeyframed(3)).toBe(false);
});

test('a keyframed number: linear, smooth, hold, and held at both ends', () => {
  const keys = (ease: 'linear' | 'smooth' | 'hold') => ({
    keys: [
      { seconds: 1, value: 0, ease },
      { seconds: 3, value: 1, ease },
    ],
  });
  expect(valueAt(keys('linear'), 1.5)).toBeCloseTo(0.25);
  expect(valueAt(keys('smooth'), 1.5)).toBeCloseTo(0.15625);
  expect(valueAt(keys('hold'), 2.9)).toBe(0);
  expect([0, 9].map((t) => valueAt(keys('linear'), t))).toEqual([0, 1]);
});

test('camera, clip and outing steps in their order, an inherited one weakened for one clip', () => {
  const [a, b, c] = ['a', 'b', 'c'].map((id) => newStep('range', id));
  const joined = joinSteps([a], [b], [c], { a: { on: false }, c: { strength: 0.4 } });
  expect(joined.map((s) => [s.id, s.on, s.strength])).toEqual([
    ['a', false, 1],
    ['b', true, 1],
    ['c', true, 0.4],
  ]);
  expect(stepsSchema.safeParse(Array.from({ length: 65 }, (_, i) => newStep('range', `s${i}`))).success).toBe(false);
});

test('warnings: only what matters, as sentences', () => {
  const facts = {
    width: 1920,
    height: 1080,
    depth: 8,
    matrix: 'bt709',
    fields: 'progressive',
    pixelAspect: { num: 1, den: 1 },
    soundTracks: 1,
    unreadSoundTracks: 0,
    variableRate: false,
    tags: { matrix: 'bt709', transfer: 'bt709', primaries: 'bt709', range: 'tv' },
  } as MediaFacts;
  expect(warningsOf(facts)).toEqual([]);
  const odd = {
    ...facts,
    width: 1919,
    variableRate: true,
    tags: { ...facts.tags, matrix: null, transfer: 'arib-std-b67' },
  };
  expect(warningsOf(odd)).toHaveLength(5);
  expect(warningsOf(odd)[0]).toContain('hybrid log-gamma');
  const sounds = (all: number, unread: number): string[] =>
    warningsOf({ ...facts, soundTracks: all, unreadSoundTracks: unread });
  expect(sounds(4, 0)).toEqual(['It has 4 sound tracks: its exports keep them all, playing and films have the first.']);
  expect(sounds(2, 1)).toEqual(['1 of its 2 sound tracks cannot be read: exports go without it.']);
  expect(sounds(1, 1)).toEqual(['Its sound is of a kind that cannot be read: exports have none.']);
  const tagged = { ...facts, tags: { ...facts.tags, fields: 'tt' } };
  expect(warningsOf(tagged)).toEqual([expect.stringContaining('its frames are progressive')]);
  expect(warningsOf({ ...tagged, fields: 'topFirst' })).toEqual([expect.stringContaining('it is deinterlaced')]);
  expect(warningsOf({ ...facts, pixelAspect: { num: 4, den: 3 } })).toEqual([
    expect.stringContaining('stored 4:3 wide'),
  ]);
});

describe('a shared step that is limited', () => {
  const tint = { ...newStep('saturation', 'look', { amount: 1.4 }), limited: true };
  const on = (overrides: Overrides) => joinSteps([], [], [tint], overrides)[0].on;
  test('acts only in clips that say so', () => {
    expect(on({})).toBe(false);
    expect(on({ look: { strength: 0.5 } })).toBe(false);
    expect(on({ look: { on: true } })).toBe(true);
    expect(joinSteps([], [], [{ ...tint, on: false }], { look: { on: true } })[0].on).toBe(false);
  });
  test('any other is on unless a clip leaves it out', () => {
    const plain = newStep('saturation', 'look', { amount: 1.4 });
    expect(joinSteps([], [], [plain])[0]).toBe(plain);
    expect(joinSteps([], [], [plain], { look: { on: false } })[0].on).toBe(false);
  });
});

test('what a region of a file leaves out is filled in, once and for all', () => {
  const raw = {
    id: 'r',
    kind: 'region',
    params: { shapes: [{ id: 'e', kind: 'ellipse', keys: [{ seconds: 0, x: 0.4, y: 0.3 }] }] },
  };
  const step = stepSchema.parse(raw);
  expect(step.params).toMatchObject({
    join: 'both',
    strength: 1,
    shapes: [
      { mode: 'add', inverted: false, keys: [{ x: 0.4, y: 0.3, width: 0.3, height: 0.3, turn: 0, feather: 0.05 }] },
    ],
  });
  expect(stepSchema.parse(step)).toEqual(step);
  const wrong = stepSchema.safeParse({ ...raw, params: { shapes: [{ id: 'e', kind: 'ellipse', keys: [] }] } });
  expect(wrong.error?.issues[0].path).toEqual(['params', 'shapes', 0, 'keys']);
});
