import type { z } from 'zod';

/** Prefixes of the schema library's default messages. */
const OF_LIBRARY = /^(Invalid input|Too small|Too big)/;

/**
 * Of a union none of whose alternatives match, the issue of the intended one: the one that fails in the deepest place.
 */
export function nearestIssue(issue: z.core.$ZodIssue): z.core.$ZodIssue {
  if (issue.code !== 'invalid_union') return issue;
  const [nearest] = issue.errors.flat().sort((a, b) => b.path.length - a.path.length);
  return nearest ? nearestIssue({ ...nearest, path: [...issue.path, ...nearest.path] }) : issue;
}

/**
 * A validation problem as a message for the user. Messages of the schemas are kept; those of the schema library, which
 * name types, are replaced.
 */
export function sentenceOf(issue: z.core.$ZodIssue): string {
  if (!OF_LIBRARY.test(issue.message)) return issue.message;
  if (issue.code === 'invalid_union') {
    const nearest = nearestIssue(issue);
    return nearest.code === 'invalid_union' ? issue.message : sentenceOf(nearest);
  }
  if (issue.code === 'invalid_type' && issue.expected === 'number') return 'A number is needed.';
  if (issue.code === 'invalid_type' && issue.expected === 'int') return 'A whole number is needed.';
  const isNumber = 'origin' in issue && (issue.origin === 'number' || issue.origin === 'int');
  if (issue.code === 'too_small' && isNumber)
    return `It has to be ${issue.inclusive ? 'at least' : 'more than'} ${issue.minimum}.`;
  if (issue.code === 'too_big' && isNumber)
    return `It has to be ${issue.inclusive ? 'at most' : 'less than'} ${issue.maximum}.`;
  return issue.message;
}
