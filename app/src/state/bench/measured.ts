import type { StepLists } from '@inkavo/core/model/lists';
import type { HoldReport } from '@inkavo/core/reading/holdCheck';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { ColourReading } from '../../engine/worker/areas';
import type { ScopeResult } from '../../engine/worker/scopes';

export type ScopeView = 'luma' | 'parade' | 'pad' | 'histogram';

/** A place in the picture that goes on reading. */
export interface Pin {
  id: string;
  area: Area;
  reading: ColourReading | null;
}

/** Scopes and readings. */
export interface Measured {
  scopeView: ScopeView;
  /** How far the pad is magnified. */
  padZoom: number;
  scope: ScopeResult | null;
  /** Which of the frame's readings is said; counted on without end. */
  reading: number;
  /** Places that go on reading. */
  pins: Pin[];
  /** What the last hold check found, and for which steps. */
  hold: { report: HoldReport; lists: StepLists } | null;
}

/** What a clip that opens begins with. */
export const unmeasured: Omit<Measured, 'scopeView' | 'padZoom'> = { scope: null, reading: 0, pins: [], hold: null };

export const measured: Measured = { ...unmeasured, scopeView: 'luma', padZoom: 1.5 };
