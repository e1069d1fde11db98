import type { NextFunction, Request, Response } from 'express';
import { z } from 'zod';
import { MediaError } from '@inkavo/media/codec';

/** An answer other than success, with a sentence for a person. */
export class HttpError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

export const notFound = (what: string): HttpError => new HttpError(404, `This ${what} is not here any more.`);

/** Checks a part of a request. Throws a 400 {@link HttpError} that names the value that is wrong. */
export function check<T>(schema: z.ZodType<T>, value: unknown): T {
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  const where = issue.path.length ? `${issue.path.join('.')}: ` : '';
  throw new HttpError(400, `${where}${issue.message}`);
}

/** Turns every error into JSON with a message; what was not foreseen is logged and kept to ourselves. */
export function answerErrors(error: unknown, _req: Request, res: Response, next: NextFunction): void {
  if (res.headersSent) return next(error);
  const status = statusOf(error);
  if (status >= 500) console.error(error);
  const message = status >= 500 ? 'The server could not do this. Nothing was changed.' : (error as Error).message;
  res.status(status).json({ error: message });
}

function statusOf(error: unknown): number {
  if (error instanceof HttpError) return error.status;
  if (error instanceof MediaError) return 422;
  const status = (error as { status?: unknown }).status;
  return typeof status === 'number' && status >= 400 && status < 500 ? status : 500;
}

/**
 * Lets only requests through that come from this server's own pages: a foreign page cannot write (Origin), and a
 * foreign name that points here cannot read (Host), while the server listens on loopback.
 */
export function ownPagesOnly(loopback: boolean) {
  const LOCAL = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/;
  return (req: Request, _res: Response, next: NextFunction): void => {
    const host = req.headers.host ?? '';
    if (loopback && !LOCAL.test(host)) throw new HttpError(403, 'This server answers on its own machine only.');
    const { origin } = req.headers;
    const safe = req.method === 'GET' || req.method === 'HEAD';
    if (!safe && origin && hostOf(origin) !== host) throw new HttpError(403, 'This request comes from another page.');
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

/** A signal that fires when the page does not want the answer any more. */
export function untilGone(res: Response): AbortSignal {
  const controller = new AbortController();
  res.on('close', () => {
    if (!res.writableFinished) controller.abort();
  });
  return controller.signal;
}
