import { writeClf } from '../../formats/clf/write';
import { writeCube } from '../../formats/cube';
import { gradeToClf, gradeToLut } from '../../formats/gradeLut';
import { readGrade, readRecipe, writeGrade, writeRecipe } from '../../formats/json';
import { gradeOf, newStep } from '../../model/grade';
import { PROFILES } from '../../model/profile';
import { compile, evaluate } from '../../program/compile';
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

test('a curve for each channel is held to its own domain', () => {
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
