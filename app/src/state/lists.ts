import type { StepLists } from '@inkavo/core/model/lists';
import { lookOf } from '@inkavo/core/model/outing';
import type { ClipOpened } from '../api/client';

/** The lists of steps of a clip from the server. */
export const listsOf = ({ clip, camera, outing }: ClipOpened): StepLists => ({
  camera: camera.steps,
  clip: clip.steps,
  outing: outing.steps,
  overrides: clip.overrides,
});

/** Revision, as in the outing's list: changes with the steps that act in a clip. */
export const lookOfOpened = ({ clip, camera, outing }: ClipOpened): string =>
  lookOf(clip.revision, camera.revision, outing.revision);
