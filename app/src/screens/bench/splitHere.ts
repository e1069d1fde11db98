import { router } from 'expo-router';
import { nanoid } from 'nanoid/non-secure';
import { fps } from '@inkavo/core/model/facts';
import { useBench } from '../../state/bench';
import { flushClips, usePending } from '../../state/clipKeeper';
import { act } from '../../state/commands';
import { keeper, useKeep } from '../../state/keeper';
import { tellTrouble } from '../../state/messages';
import { timeText } from './timeText';

/** Splits the clip: the part from the current frame on becomes a separate clip, with the same steps. */
export async function splitHere(): Promise<void> {
  const { opened, frame } = useBench.getState();
  if (!opened) return;
  const { id, outingId, name, facts } = opened.clip;
  // The new clip gets the steps that the server has.
  await Promise.all([keeper.flush(), flushClips()]);
  if (useKeep.getState().state !== 'kept' || usePending.getState().clips[id])
    return tellTrouble('command', 'The clip is not split: what was changed last is not kept on the server yet.');
  const { outFrame } = useBench.getState().trim;
  const as = nanoid();
  await act(
    {
      place: outingId,
      what: `cut in ${name}`,
      done: [{ on: 'split', id, frame, as }],
      undone: [
        { on: 'remove', kind: 'clip', ids: [as] },
        { on: 'clip', id, patch: { outFrame } },
      ],
    },
    `Split. Another clip begins at ${timeText(frame, fps(facts))}.`,
    [{ title: 'Open it', run: () => router.replace(`/clip/${as}`) }],
  );
}
