import { conflictSchema, type StepsState } from '@inkavo/core/model/change';
import type { Clash } from '@inkavo/core/model/merge';
import { api, ApiError } from '../api/client';
import { timeLimit } from '../api/timeLimit';
import type { Entry } from './deviceLog';

/** What became of a change that was sent. */
export type SendOutcome =
  | { is: 'stored'; answer: StepsState }
  | { is: 'asked'; clashes: Clash[]; theirs: StepsState }
  /** The server will never take it as it is. */
  | { is: 'refused'; reason: string }
  /** Nobody knows whether it arrived, or it can be taken later: to be sent again as it is. */
  | { is: 'later'; why: 'no server' | 'server’s disk full' | 'server busy' };

/** Requests that outlive their page take no more, in characters (Fetch Standard: 64 KiB in all). */
const KEEPALIVE_MAX = 60_000;

/** After so long without an answer nobody will answer. Chosen by judgement: far longer than a save takes, also on a slow network. */
const ANSWER_MS = 15_000;

export async function sendChange({ id, clipId, change: made }: Entry): Promise<SendOutcome> {
  // Nothing differs any more: sent all the same, so that the answer says what the server has.
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
