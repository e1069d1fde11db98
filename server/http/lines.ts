import type { Response } from 'express';
import { MediaError } from '@inkavo/media/codec';
import { HttpError, untilGone } from './problems';

/** A response that reports progress. */
export const LINES = {
  200: { type: 'application/x-ndjson', holds: 'Lines of JSON: how far it is, then the answer or an error.' },
} as const;

/**
 * Responds with lines of JSON: progress, then the result, or an error. Cancels the work when the client disconnects.
 */
export async function inLines(
  res: Response,
  work: (say: (line: object) => void, signal: AbortSignal) => Promise<object>,
): Promise<void> {
  const signal = untilGone(res);
  res.type('application/x-ndjson');
  const say = (line: object): void => void res.write(`${JSON.stringify(line)}\n`);
  try {
    say(await work(say, signal));
  } catch (error) {
    if (signal.aborted) return;
    if (!(error instanceof MediaError)) console.error(error);
    const told = error instanceof MediaError || error instanceof HttpError;
    say({ error: told ? error.message : 'The clip could not be read.' });
  }
  res.end();
}
