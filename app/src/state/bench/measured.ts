import type { StepLists } from '@inkavo/core/model/lists';
import type { HoldReport } from '@inkavo/core/reading/holdCheck';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { ColourReading } from '../../engine/worker/areas';
import type { ScopeResult } from '../../engine/worker/scopes';

export type ScopeView = 'luma' | 'parade' | 'pad' | 'histogram';

/** A continuously read position in the picture. */
export interface Pin {
  id: string;
  area: Area;
  reading: ColourReading | null;
}

/** Scopes and readings. */
export interface Measured {
  scopeView: ScopeView;
  /** Zoom of the pad. */
  padZoom: number;
  scope: ScopeResult | null;
  /** Index of the displayed reading, unbounded. */
  reading: number;
  /** Continuously read positions. */
  pins: Pin[];
  /** Findings of the last hold check, and the steps it applies to. */
  hold: { report: HoldReport; lists: StepLists } | null;
}

/** Initial state for an opened clip. */
export const unmeasured: Omit<Measured, 'scopeView' | 'padZoom'> = { scope: null, reading: 0, pins: [], hold: null };

export const measured: Measured = { ...unmeasured, scopeView: 'luma', padZoom: 1.5 };
