import { conflictSchema, type StepsState } from '@inkavo/core/model/change';
import type { Clash } from '@inkavo/core/model/merge';
import { api, ApiError } from '../api/client';
import { timeLimit } from '../api/timeLimit';
import type { Entry } from './deviceLog';

/** Result of sending a change. */
export type SendOutcome =
  | { is: 'stored'; answer: StepsState }
  | { is: 'asked'; clashes: Clash[]; theirs: StepsState }
  /** The server will never accept it as it is. */
  | { is: 'refused'; reason: string }
  /** The outcome is unknown, or it can be accepted later: to be sent again unchanged. */
  | { is: 'later'; why: 'no server' | 'server’s disk full' | 'server busy' };

/** Maximum size in characters of requests that outlive their page (Fetch Standard: 64 KiB in total). */
const KEEPALIVE_MAX = 60_000;

/** Time-out. By judgement: far longer than saving takes, even on a slow network. */
const ANSWER_MS = 15_000;

export async function sendChange({ id, clipId, change: made }: Entry): Promise<SendOutcome> {
  // No difference remains: sent anyway, for the server's state in the response.
  const change = made ?? { id };
  try {
    const keepalive = JSON.stringify(change).length < KEEPALIVE_MAX;
    return { is: 'stored', answer: await api.change(clipId, change, { keepalive, signal: timeLimit(ANSWER_MS) }) };
  } catch (error) {
    if (!(error instanceof ApiError)) return { is: 'later', why: 'no server' };
    const { status, code, problem, message } = error;
    if (code === 'steps-conflict') {
      const conflict = conflictSchema.safeParse(problem);
      if (conflict.success) return { is: 'asked', clashes: conflict.data.clashes, theirs: conflict.data.theirs };
    }
    if (status >= 400 && status < 500 && status !== 408 && status !== 429) return { is: 'refused', reason: message };
    if (status === 507) return { is: 'later', why: 'server’s disk full' };
    return { is: 'later', why: status === 0 ? 'no server' : 'server busy' };
  }
}
