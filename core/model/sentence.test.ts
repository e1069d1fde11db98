import { z } from 'zod';
import { profileSchema } from './profile';
import { sentenceOf } from './sentence';

const said = (schema: z.ZodType, value: unknown): string => sentenceOf(schema.safeParse(value).error!.issues[0]);

test('what is wrong with a number is a sentence for the person who typed it', () => {
  expect(said(z.number(), NaN)).toBe('A number is needed.');
  expect(said(z.number(), undefined)).toBe('A number is needed.');
  expect(said(z.number().int(), 2.5)).toBe('A whole number is needed.');
  expect(said(z.number().min(2), 1)).toBe('It has to be at least 2.');
  expect(said(z.number().positive(), 0)).toBe('It has to be more than 0.');
  expect(said(z.number().max(9), 10)).toBe('It has to be at most 9.');
});

test('a schema’s own words are kept, and of alternatives the one that was meant is spoken of', () => {
  expect(said(z.number().min(2, 'Two are needed.'), 1)).toBe('Two are needed.');
  const red = { x: 0.64, y: 3 };
  const primaries = { red, green: { x: 0.3, y: 0.6 }, blue: { x: 0.15, y: 0.06 }, white: { x: 0.3127, y: 0.329 } };
  expect(said(profileSchema, { name: 'A', transfer: { kind: 'pq' }, primaries })).toBe('It has to be at most 1.2.');
});
