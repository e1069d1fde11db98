import type { StepLists } from '@inkavo/core/model/lists';
import { lookOf } from '@inkavo/core/model/outing';
import type { ClipOpened } from '../api/client';

/** The lists of steps of a clip as the server gives them. */
export const listsOf = ({ clip, camera, outing }: ClipOpened): StepLists => ({
  camera: camera.steps,
  clip: clip.steps,
  outing: outing.steps,
  overrides: clip.overrides,
});

/** As in the outing's list: it differs when the steps that act in a clip do. */
export const lookOfOpened = ({ clip, camera, outing }: ClipOpened): string =>
  lookOf(clip.revision, camera.revision, outing.revision);
