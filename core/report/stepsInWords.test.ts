import { newStep } from '../model/grade';
import { stepsInWords, strengthInWords, summaryOf } from './stepsInWords';

test('steps that do nothing, are off or lie in no frame are left out; the others are told in their order', () => {
  const steps = [
    newStep('convert', 'c'),
    { ...newStep('haze', 'h', { amount: 0.4 }), strength: 0.7, label: 'Far shore' },
    { ...newStep('range', 'off', { exposure: 1 }), on: false },
    { ...newStep('range', 'none', { exposure: 1 }), strength: 0 },
    newStep('saturation', 's', { amount: 1.2 }),
  ];
  const told = stepsInWords(steps, (id) => (id === 's' ? 'outing' : 'clip'));
  expect(told.map(({ title, owner, strength, summary }) => ({ title, owner, strength, summary }))).toEqual([
    { title: 'Far shore', owner: 'clip', strength: 0.7, summary: '40 % off' },
    { title: 'Saturation', owner: 'outing', strength: 1, summary: '×1.20' },
  ]);
});

test('a step is said with the numbers of a moment of the clip, the first one if none is named', () => {
  const keys = [0, 4].map((seconds) => ({ seconds, value: 1.5 + seconds / 4, ease: 'linear' as const }));
  const step = { ...newStep('saturation', 's'), params: { ...newStep('saturation', 's').params, amount: { keys } } };
  expect(summaryOf(step)).toBe('×1.50');
  expect(summaryOf(step, keys[1].seconds)).toBe('×2.50');
  expect(summaryOf({ ...step, params: { ...step.params, amount: { keys: keys.slice(1) } } })).toBe('×2.50');
});

test('strength is said where it is less than full', () => {
  expect([1, 0.705, 0].map(strengthInWords)).toEqual(['', ', at 71 %', ', at 0 %']);
});
