import { z } from 'zod';

/** Machine-readable error codes. */
export const PROBLEM_TITLES = {
  'bad-request': 'The request is not right',
  forbidden: 'Not allowed from here',
  'not-let-in': 'This device was not let in',
  'too-often': 'Asked too often',
  'not-found': 'Not here any more',
  'steps-conflict': 'The same steps were changed elsewhere',
  'out-of-date': 'Changed since it was read',
  'not-possible': 'Not possible at this moment',
  'too-large': 'Too large',
  unreadable: 'The file cannot be used',
  'disk-full': 'The server’s disk is full',
  busy: 'The server is busy',
  unforeseen: 'Something that was not foreseen',
} as const;
export type ProblemCode = keyof typeof PROBLEM_TITLES;

/** An error response in the form of RFC 9457 (Problem Details for HTTP APIs). */
export const problemSchema = z.looseObject({
  type: z.string(),
  title: z.string(),
  status: z.number().int(),
  /** A message for the user: what was wrong, and what was kept. */
  detail: z.string(),
  code: z.enum(Object.keys(PROBLEM_TITLES) as [ProblemCode, ...ProblemCode[]]),
});
export type Problem = z.infer<typeof problemSchema>;
