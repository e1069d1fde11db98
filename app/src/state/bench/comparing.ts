import type { Aspect } from '@inkavo/core/model/delivery';
import type { ScopeResult } from '../../engine/worker/scopes';

/** What the grade is held against, and what lies over the picture. */
export interface Comparing {
  /** Shows the picture as recorded, while it is held. */
  untouched: boolean;
  /** A sheet is open that is judged by looking at the picture: nothing else lies over it. */
  looking: boolean;
  /** Left of this share of the picture's width it is as recorded; null: no split. */
  split: number | null;
  /** What the grade is held against: the file, the grade without the step in hand or all steps in its region, or a kept frame. */
  compareWith: 'recorded' | 'step' | 'region' | 'kept';
  /** What it is compared with stands beside the picture. */
  beside: boolean;
  /** A picture that was kept of this clip, as an address of the browser's. */
  kept: string | null;
  /** What it is a picture of, where it is not of this clip. */
  keptTitle: string | null;
  /** Its traces, while it is shown. */
  keptTraces: Pick<ScopeResult, 'main' | 'pad'> | null;
  /** A neutral field in place of the picture, for a moment; then the picture as recorded, then as graded. */
  eyeRest: 'field' | 'before' | null;
  /** What is drawn over the picture. */
  overlay: 'none' | 'zones' | 'clipping';
  /** What a cut to this shape would take away is covered; of all clips that are opened. */
  guide: Aspect | null;
}

/** What a clip that opens begins with. */
export const uncompared = {
  split: null,
  compareWith: 'recorded',
  beside: false,
  eyeRest: null,
  overlay: 'none',
} as const satisfies Partial<Comparing>;

export const comparing: Comparing = {
  ...uncompared,
  untouched: false,
  looking: false,
  kept: null,
  keptTitle: null,
  keptTraces: null,
  guide: null,
};
