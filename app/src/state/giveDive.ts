import PQueue from 'p-queue';
import type { ClipDive } from '@inkavo/core/model/diveLog';
import type { ListedClip } from '@inkavo/core/model/outing';
import { api } from '../api/client';
import { act } from './commands';
import { tell, tellTrouble } from './messages';

/** Number of concurrent requests. */
const AT_ONCE = 4;

/** A clip covered by a dive log, with its offset. */
export interface InDive {
  clip: ListedClip;
  dive: ClipDive;
}

/** Assigns dive logs to clips as one undoable action; clips that have one keep it. */
export async function giveDive(covered: readonly InDive[]): Promise<void> {
  const queue = new PQueue({ concurrency: AT_ONCE });
  let without: InDive[];
  try {
    const own = await queue.addAll(
      covered.map(
        ({ clip: { id } }) =>
          async () =>
            (await api.clip(id)).clip.dive,
      ),
    );
    without = covered.filter((_, i) => own[i] === null);
  } catch (error) {
    return tellTrouble('command', (error as Error).message);
  }
  if (without.length === 0) return tell({ key: 'offer', text: 'Each of them has a log already.', fades: true });
  const into = without.length === 1 ? without[0].clip.name : `${without.length} clips`;
  await act(
    {
      place: without[0].clip.outingId,
      what: `the dive log given to ${into}`,
      done: without.map(({ clip, dive }) => ({ on: 'dive', id: clip.id, dive })),
      undone: without.map(({ clip }) => ({ on: 'dive', id: clip.id, dive: null })),
    },
    `The log was given to ${into}.`,
  );
}
