import type { Clip } from '@inkavo/core/model/outing';
import type { Step } from '@inkavo/core/model/grade';
import { REGION } from '@inkavo/core/regions/region';
import { act } from './deeds';
import { putInPlace } from './stepLists';

/** Puts copies of steps into clips: each takes the place of the step of its kind. Resolves with whether that worked. */
export function pasteInto(clips: readonly Clip[], steps: readonly Step[]): Promise<boolean> {
  const made = clips.map((clip) => ({ clip, to: putInPlace(clip.steps, steps).steps }));
  const count = steps.filter((s) => s.kind !== REGION).length;
  const what = count === 1 ? 'a step' : `${count} steps`;
  const into = clips.length === 1 ? clips[0].name : `${clips.length} clips`;
  return act(
    {
      place: clips[0].outingId,
      what: `${what} pasted into ${into}`,
      done: made.map(({ clip, to }) => ({ on: 'steps', id: clip.id, from: clip.steps, to })),
      undone: made.map(({ clip, to }) => ({ on: 'steps', id: clip.id, from: to, to: clip.steps })),
    },
    `Pasted ${what} into ${into}.`,
  );
}
