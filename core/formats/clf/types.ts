import type { LogCamera } from '../../colour/transfer';
import type { Cdl } from '../cdl';

export type Three<T = number> = [T, T, T];

/** Styles of a Log node. The camera styles take all parameters, the lin/log ones no break, the plain ones none. */
export const LOG_STYLES = [
  'log10',
  'antiLog10',
  'log2',
  'antiLog2',
  'linToLog',
  'logToLin',
  'cameraLinToLog',
  'cameraLogToLin',
] as const;

export const EXPONENT_STYLES = [
  'basicFwd',
  'basicRev',
  'basicMirrorFwd',
  'basicMirrorRev',
  'basicPassThruFwd',
  'basicPassThruRev',
  'monCurveFwd',
  'monCurveRev',
  'monCurveMirrorFwd',
  'monCurveMirrorRev',
] as const;

export const CDL_STYLES = ['Fwd', 'Rev', 'FwdNoClamp', 'RevNoClamp'] as const;

/** One process node. All numbers are normalised to a code range of 0–1, whatever bit depths the file states. */
export type ProcessNode =
  /** Three rows of three factors and an offset. */
  | { kind: 'matrix'; rows: Three<[number, number, number, number]> }
  /** One curve per channel over 0–1, clamped at its ends; size × 3 numbers. */
  | { kind: 'lut1d'; size: number; data: Float64Array }
  /** A cube over 0–1, red fastest (the file has blue fastest); size³ × 3 numbers. */
  | { kind: 'lut3d'; size: number; data: Float64Array; interpolation: 'trilinear' | 'tetrahedral' }
  /** Both limits of an end are present, or neither. */
  | { kind: 'range'; low?: { in: number; out: number }; high?: { in: number; out: number }; clamp: boolean }
  | { kind: 'log'; style: (typeof LOG_STYLES)[number]; params: Three<LogCamera> }
  | { kind: 'exponent'; style: (typeof EXPONENT_STYLES)[number]; params: Three<{ exponent: number; offset: number }> }
  | { kind: 'cdl'; style: (typeof CDL_STYLES)[number]; cdl: Omit<Cdl, 'id'> };

/** A file of the Academy/ASC Common LUT Format (Academy S-2014-006, SMPTE ST 2136-1). */
export interface ProcessList {
  id: string;
  name: string;
  nodes: ProcessNode[];
}
