import { draftOf, profileOf, type ProfileDraft } from './profileDraft';

const problemOf = (part: Partial<ProfileDraft>): string => {
  const made = profileOf({ ...draftOf(null), name: 'Mine', ...part });
  return 'problem' in made ? made.problem : '';
};
const { log, xy } = draftOf(null);

test('what was typed becomes a profile, with a point or a comma', () => {
  expect(problemOf({})).toBe('');
  expect(profileOf({ ...draftOf(null), name: ' Mine ', curve: 'gamma', exponent: '2,6' })).toEqual({
    profile: expect.objectContaining({ name: 'Mine', transfer: { kind: 'gamma', exponent: 2.6 } }),
  });
});

test('what is wrong is said by the name of its field', () => {
  expect(problemOf({ log: { ...log, linSideOffset: 'x' } })).toBe('Linear side offset: a number is needed.');
  expect(problemOf({ log: { ...log, base: '0' } })).toBe('Base: it has to be more than 0.');
  expect(problemOf({ log: { ...log, linearSlope: '' } })).toBe('');
  expect(problemOf({ curve: 'gamma', exponent: '9' })).toBe('Exponent: it has to be at most 5.');
  expect(problemOf({ primaries: 'typed', xy: { ...xy, redX: '' } })).toBe('Red x: a number is needed.');
  expect(problemOf({ name: ' ', log: { ...log, base: '0' } })).toBe('A name is needed.');
});
