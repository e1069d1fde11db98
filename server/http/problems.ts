import type { NextFunction, Request, Response } from 'express';
import type { z } from 'zod';
import type { Problem, ProblemCode } from '@inkavo/core/model/problem';
import { PROBLEM_TITLES } from '@inkavo/core/model/problem';
import { sentenceOf } from '@inkavo/core/model/sentence';
import { MediaError } from '@inkavo/media/codec';
import { NoSpace } from '../diskSpace';

/** An error response: a code for programs, a message for the user, and further members. */
export class HttpError extends Error {
  constructor(
    readonly status: number,
    readonly code: ProblemCode,
    message: string,
    readonly more: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

export const notFound = (what: string): HttpError =>
  new HttpError(404, 'not-found', `This ${what} is not here any more.`);
export const badRequest = (message: string): HttpError => new HttpError(400, 'bad-request', message);

/** Throws unless a clip has a frame with this number. */
export function requireFrame({ facts }: { facts: { frames: number } }, frame: number): void {
  if (frame >= facts.frames) throw badRequest(`The last frame of this clip is ${facts.frames - 1}.`);
}

/** Validates a part of a request. Throws a 400 {@link HttpError} that names the invalid value. */
export function check<T>(schema: z.ZodType<T>, value: unknown): T {
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  const where = issue.path.length ? `${issue.path.join('.')}: ` : '';
  throw badRequest(`${where}${sentenceOf(issue)}`);
}

/** Errors of Node and of the database that the user can fix. */
const KNOWN: Record<string, [status: number, code: ProblemCode, message: string]> = {
  ENOENT: [404, 'not-found', 'This file is not here any more.'],
  ENOSPC: [507, 'disk-full', 'The server’s disk is full. Nothing was changed.'],
  SQLITE_FULL: [507, 'disk-full', 'The server’s disk is full. Nothing was changed.'],
  SQLITE_BUSY: [503, 'busy', 'The library is in use by another program. Nothing was changed; try again.'],
  SQLITE_BUSY_SNAPSHOT: [503, 'busy', 'The library is in use by another program. Nothing was changed; try again.'],
  SQLITE_READONLY: [503, 'busy', 'The library cannot be written to. Nothing was changed.'],
  SQLITE_CONSTRAINT_FOREIGNKEY: [404, 'not-found', 'Something that this belongs to is not here any more.'],
};

/** Converts an error to a response. Details of unexpected errors are not disclosed. */
export function httpErrorOf(error: unknown): HttpError {
  if (error instanceof HttpError) return error;
  if (error instanceof NoSpace) return new HttpError(507, 'disk-full', error.message);
  if (error instanceof MediaError) return new HttpError(422, 'unreadable', error.message);
  const { code, status } = error as { code?: string; status?: unknown };
  const known = code === undefined ? undefined : KNOWN[code];
  if (known) return new HttpError(...known);
  if (status === 413) return new HttpError(413, 'too-large', 'This is more than is taken at once.');
  if (typeof status === 'number' && status >= 400 && status < 500)
    return new HttpError(status, 'bad-request', (error as Error).message);
  return new HttpError(500, 'unforeseen', 'The server could not do this. Nothing was changed.');
}

/** The body of an error response (RFC 9457). */
export const problemOf = ({ status, code, message, more }: HttpError): Problem => ({
  type: `urn:inkavo:problem:${code}`,
  title: PROBLEM_TITLES[code],
  status,
  detail: message,
  code,
  ...more,
});

/** Sends every error as a problem; unexpected ones are logged. */
export function answerErrors(error: unknown, _req: Request, res: Response, next: NextFunction): void {
  const known = httpErrorOf(error);
  if (known.status === 500) console.error(error);
  else if (known.status > 500) console.error(`${known.code}: ${(error as Error).message.slice(0, 200)}`);
  if (res.headersSent) return next(error);
  if (known.status === 503) res.set('Retry-After', '1');
  res
    .status(known.status)
    .type('application/problem+json')
    .send(JSON.stringify(problemOf(known)));
}

/**
 * Accepts requests only from this server's own pages: foreign pages cannot write (Origin), and foreign names that
 * resolve here cannot read (Host), where the server listens on loopback (`loopback`).
 */
export function ownPagesOnly(loopback: (req: Request) => boolean) {
  const LOCAL = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/;
  return (req: Request, _res: Response, next: NextFunction): void => {
    const host = req.headers.host ?? '';
    if (loopback(req) && !LOCAL.test(host))
      throw new HttpError(403, 'forbidden', 'This server answers on its own machine only.');
    const { origin } = req.headers;
    const safe = req.method === 'GET' || req.method === 'HEAD';
    if (!safe && origin && hostOf(origin) !== host)
      throw new HttpError(403, 'forbidden', 'This request comes from another page.');
    next();
  };
}

function hostOf(origin: string): string {
  try {
    return new URL(origin).host;
  } catch {
    return '';
  }
}

/** Maximum nesting depth of our own requests: a step's keyframes are nine levels deep. */
const MAX_DEPTH = 32;

/** Refuses deeply nested bodies before any recursion over them. */
export function limitDepth(req: Request, _res: Response, next: NextFunction): void {
  let level: unknown[] = [req.body];
  for (let depth = 0; level.length > 0; depth += 1) {
    if (depth > MAX_DEPTH) throw badRequest(`Values are nested more than ${MAX_DEPTH} deep.`);
    level = level.flatMap((v) => (v !== null && typeof v === 'object' ? Object.values(v) : []));
  }
  next();
}

/** A signal that fires when the client disconnects. */
export function untilGone(res: Response): AbortSignal {
  const controller = new AbortController();
  res.on('close', () => {
    if (!res.writableFinished) controller.abort();
  });
  return controller.signal;
}

/** Runs work for a response, as long as the client waits for it. */
export async function unlessGone(res: Response, work: (signal: AbortSignal) => Promise<void>): Promise<void> {
  const signal = untilGone(res);
  try {
    await work(signal);
  } catch (error) {
    if (!signal.aborted) throw error;
  }
}
