import type { StepLists } from '@inkavo/core/model/lists';
import type { ClipOpened } from '../api/client';

/** The lists of steps of a clip as the server gives them. */
export const listsOf = ({ clip, camera, outing }: ClipOpened): StepLists => ({
  camera: camera.steps,
  clip: clip.steps,
  outing: outing.steps,
  overrides: clip.overrides,
});
