import { clipSeconds } from '@inkavo/core/model/facts';
import type { ListedClip } from '@inkavo/core/model/outing';
import type { Step } from '@inkavo/core/model/grade';
import { atDepthsOf } from '@inkavo/core/steps/water/followLog';
import { REGION } from '@inkavo/core/regions/region';
import { api } from '../api/client';
import { act } from './commands';
import { tellTrouble } from './messages';
import { addCopies, putInPlace } from './stepLists';

/**
 * Inserts copies of steps into clips as one undoable action: each replaces the step of its kind, or, with "add", is
 * inserted beside it. `following`: ids of steps whose depth followed a dive log; in a clip with a log it follows that
 * one, without one it is constant. Resolves with whether it succeeded.
 */
export async function pasteInto(
  clips: readonly ListedClip[],
  steps: readonly Step[],
  { how = 'replace', following = [] }: { how?: 'replace' | 'add'; following?: readonly string[] } = {},
): Promise<boolean> {
  const put = how === 'add' ? addCopies : putInPlace;
  let made: { id: string; from: Step[]; to: Step[] }[];
  try {
    made = (await api.someClips(clips.map((c) => c.id))).map((clip) => {
      const own = atDepthsOf(steps, following, clip.dive, clipSeconds(clip.facts));
      return { id: clip.id, from: clip.steps, to: put(clip.steps, own).steps };
    });
  } catch (error) {
    tellTrouble('command', (error as Error).message);
    return false;
  }
  const count = steps.filter((s) => s.kind !== REGION).length;
  const what = count === 1 ? 'a step' : `${count} steps`;
  const into = clips.length === 1 ? clips[0].name : `${clips.length} clips`;
  return act(
    {
      place: clips[0].outingId,
      what: `${what} pasted into ${into}`,
      done: made.map(({ id, from, to }) => ({ on: 'steps', id, from, to })),
      undone: made.map(({ id, from, to }) => ({ on: 'steps', id, from: to, to: from })),
    },
    `Pasted ${what} into ${into}.`,
  );
}
