import { writeClf } from '../../formats/clf/write';
import { writeCube } from '../../formats/cube';
import { gradeToClf, gradeToLut } from '../../formats/gradeLut';
import { readGrade, readRecipe, writeGrade, writeRecipe } from '../../formats/json';
import { gradeOf, newStep } from '../../model/grade';
import { PROFILES } from '../../model/profile';
import fixture from '../../fixtures/regions.json';
import { bakeOps } from '../../program/baked';
import { RowGrader } from '../../program/cpu/rowGrader';
import { compile } from '../../program/compile';
import { evaluate } from '../../program/evaluate';
import { lutTexts, provideLut, readLut } from './library';

const log = PROFILES.find((p) => p.name === 'Drone log, 10 bit');
const convert = newStep('convert', 'c', { profile: log, rollOff: 0.85 });
const saturation = newStep('saturation', 's', { amount: 1.2 });
const colours = [
  [0.3, 0.35, 0.4],
  [0.6, 0.55, 0.5],
  [0.45, 0.45, 0.45],
] as [number, number, number][];

test('a technical table before other steps does what the convert step did', () => {
  provideLut('technical', writeCube(gradeToLut([convert], 65, 'Drone log')));
  const byTable = compile([newStep('lut', 'l', { lut: 'technical', title: 'Drone log' }), saturation], 0);
  const byStep = compile([convert, saturation], 0);
  for (const rgb of colours)
    evaluate(byTable, rgb).forEach((v, c) => expect(v).toBeCloseTo(evaluate(byStep, rgb)[c], 2));
});

test('a table after other steps, at half strength, is half way in encoded values', () => {
  provideLut('look', writeClf(gradeToClf([saturation], 33, 'Look')));
  const step = { ...newStep('lut', 'l', { lut: 'look' }), strength: 0.5 };
  for (const rgb of colours) {
    const whole = evaluate(compile([saturation], 0), rgb);
    evaluate(compile([step], 0), rgb).forEach((v, c) => expect(v).toBeCloseTo((rgb[c] + whole[c]) / 2, 3));
  }
});

test('none chosen is the identity; one that is not there is told by its name', () => {
  expect(compile([newStep('lut', 'l')], 0).ops).toEqual([]);
  const step = newStep('lut', 'l', { lut: 'elsewhere', title: 'Evening' });
  expect(() => compile([step], 0)).toThrow('The LUT "Evening" is not here');
});

test('a curve for each channel is clamped to its own domain', () => {
  const { apply, note } = readLut('LUT_1D_SIZE 2\nDOMAIN_MIN 0 0 0.5\nDOMAIN_MAX 1 2 1\n0 0 0\n1 1 1\n');
  const rgb: [number, number, number] = [0.25, 0.5, 0.75];
  apply(rgb);
  expect([note, ...rgb]).toEqual(['curves, 2 entries', 0.25, 0.25, 0.5]);
});

test('a grade file brings its tables along; one without them, or with a damaged one, is refused', () => {
  const text = writeCube(gradeToLut([saturation], 17, 'Small'));
  provideLut('small', text);
  const grade = gradeOf([newStep('lut', 'l', { lut: 'small', title: 'Small' })]);
  const back = readGrade(writeGrade(grade));
  expect(back.luts).toEqual(lutTexts(grade.steps));
  expect(() => readGrade(JSON.stringify({ ...grade, luts: {} }))).toThrow('uses the table "small"');
  expect(() => readGrade(JSON.stringify({ ...grade, luts: { small: text.slice(0, 200) } }))).toThrow(
    /damaged table at luts.small: (The file ends after|Line)/,
  );
});

test('a recipe comes back as it was; one without steps is refused', () => {
  const recipe = { format: 'inkavo-recipe', version: 1, name: 'Low sun', note: 'Late', steps: [saturation] } as const;
  expect(readRecipe(writeRecipe({ ...recipe, steps: [...recipe.steps] }))).toEqual(recipe);
  expect(() => readRecipe(JSON.stringify({ ...recipe, steps: [] }))).toThrow('at least one step');
});

/** The text of a table that is too large to be cached: 33³ nodes. */
function steep33(): string {
  const lines = ['LUT_3D_SIZE 33'];
  for (let i = 0; i < 33 ** 3; i += 1) {
    const [r, g, b] = [i % 33, Math.floor(i / 33) % 33, Math.floor(i / 33 ** 2)].map((v) => v / 32);
    lines.push([r ** 3, 1 - g, Math.sqrt(b)].map((v) => v.toFixed(5)).join(' '));
  }
  return `${lines.join('\n')}\n`;
}

// OpenColorIO's tetrahedral results (curves: linear) for the same files; scripts/regionFixtures.py makes them.
test.each(fixture.tables.map((t) => [t.name, t] as const))(
  '%s: what backends make of a file equals OpenColorIO to half a 10-bit code value',
  (name, { text, points }) => {
    const id = name.replaceAll(' ', '-');
    provideLut(id, text ?? steep33());
    const program = compile([newStep('lut', 'l', { lut: id }), newStep('range', 'r')], 0);
    const line = Float32Array.from(points.flatMap(([rgb]) => rgb));
    new RowGrader(
      { ops: bakeOps(program, 65), planes: [] },
      points.length,
      1,
      [0.2126, 0.7152, 0.0722],
      () => undefined,
    ).grade(0, line);
    let [most, sampled] = [0, 0];
    const anew = { kind: 'table', domain: [-2 / 27, 30 / 27], evaluate: readLut(text ?? steep33()).apply } as const;
    const again = Float32Array.from(points.flatMap(([rgb]) => rgb));
    const baked = { ops: bakeOps({ ops: [anew], planes: [] }, 65), planes: [] };
    new RowGrader(baked, points.length, 1, [0.2126, 0.7152, 0.0722], () => undefined).grade(0, again);
    points.forEach(([, out], i) =>
      out.forEach((v, c) => {
        most = Math.max(most, Math.abs(line[3 * i + c] - v));
        sampled = Math.max(sampled, Math.abs(again[3 * i + c] - v));
      }),
    );
    console.log(`${name}: largest ${most.toExponential(1)}; sampled anew into 65³ it would be ${sampled.toFixed(4)}`);
    expect(most).toBeLessThanOrEqual(5e-4);
  },
);

test('a gentle table is baked with its neighbours, a steep one keeps its own grid', () => {
  provideLut('gentle', writeCube(gradeToLut([newStep('saturation', 's', { amount: 0.9 })], 33, 'Gentle')));
  const of = (lut: string) => compile([newStep('lut', 'l', { lut }), saturation], 0).ops.length;
  expect([of('gentle'), of('steep-17')]).toEqual([1, 2]);
});
