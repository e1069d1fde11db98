import type { Aspect } from '@inkavo/core/model/delivery';
import type { ScopeResult } from '../../engine/worker/scopes';

/** Comparison of the grade, and overlays on the picture. */
export interface Comparing {
  /** Shows the picture as recorded, while held. */
  untouched: boolean;
  /** A sheet for adjustments judged by looking at the picture is open: no overlays. */
  looking: boolean;
  /** Left of this share of the picture's width it is as recorded; null: no split. */
  split: number | null;
  /**
   * Reference of the comparison: the file, the grade without the step in hand or all steps in its region, or a kept
   * frame.
   */
  compareWith: 'recorded' | 'step' | 'region' | 'kept';
  /** The reference is shown beside the picture. */
  beside: boolean;
  /** A kept picture of this clip, as a blob URL. */
  kept: string | null;
  /** Its title, if it is not of this clip. */
  keptTitle: string | null;
  /** Its traces, while it is shown. */
  keptTraces: Pick<ScopeResult, 'main' | 'pad'> | null;
  /** A neutral field instead of the picture for a moment; then the picture as recorded, then graded. */
  eyeRest: 'field' | 'before' | null;
  /** Overlay on the picture. */
  overlay: 'none' | 'zones' | 'clipping';
  /** Masks the parts that a crop to this aspect ratio would remove; for all clips. */
  guide: Aspect | null;
}

/** Initial state for an opened clip. */
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
