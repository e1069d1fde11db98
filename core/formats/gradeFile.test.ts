import { newStep } from '../model/grade';
import { readCdl } from './cdl';
import { readClf } from './clf/read';
import { readCube } from './cube';
import { gradeFile, type GradeFormat } from './gradeFile';
import { gradeToLut } from './gradeLut';
import { readGrade } from './json';

const steps = [newStep('range', 'r', { black: -0.04 }), newStep('balance', 'b', { kelvin: 5000 })];
const keyed = newStep('range', 'k', { black: { keys: [{ seconds: 0, value: 0.1 }] } });
const haze = newStep('haze', 'h', { amount: 0.6 });

test('each format holds the grade, and the name of the clip', () => {
  const text = (format: GradeFormat) => gradeFile(steps, { format, size: 17, name: 'ferry 3.mp4' }).text;
  expect(readCube(text('cube'))).toMatchObject({ size: 17, title: 'ferry 3.mp4' });
  expect(readClf(text('clf')).nodes).toHaveLength(2);
  expect(readGrade(text('json')).steps).toEqual(steps);
  expect(gradeFile(steps, { format: 'clf', size: 17, name: 'ferry 3.mp4' }).fileName).toBe('ferry 3.clf');
});

test('a CDL names what it cannot hold', () => {
  const { text, lost } = gradeFile(steps, { format: 'cc', size: 17, name: 'ferry' });
  expect(lost).toEqual(['Balance']);
  expect(readCdl(text)[0].offset[0]).toBeCloseTo(-0.04, 6);
});

test('what changes over the clip or the picture has no table; as far as it goes, it is left out and named', () => {
  const request = { format: 'cube', size: 17, name: 'x' } as const;
  expect(() => gradeFile([keyed], request)).toThrow('changes over the clip');
  expect(() => gradeFile([haze], request)).toThrow('depends on the place');
  const { text, lost } = gradeFile([steps[0], haze, keyed, steps[1]], { ...request, partly: true });
  expect(lost).toEqual(['Haze', 'Range']);
  const { data } = gradeToLut(steps, 17, 'x');
  readCube(text).data.forEach((v, i) => expect(v).toBeCloseTo(data[i], 5));
});
