import { CurveEditor } from '../../../instruments/CurveEditor';
import { regionPicks } from '../region/picks';
import { balanceControls } from './balance';
import { convertControls } from './convert';
import { cornersControls } from './corners';
import { hazeControls } from './haze';
import { huesControls } from './hues';
import { lutControls } from './lut';
import { noiseControls } from './noise';
import { sharpenControls } from './sharpen';
import { smoothControls } from './smooth';
import type { KindControls, PickDefinition } from './types';
import { waterControls } from './water';

/** Custom controls by step kind. */
export const CONTROLS: Partial<Record<string, KindControls>> = {
  convert: convertControls,
  corners: cornersControls,
  water: waterControls,
  haze: hazeControls,
  balance: balanceControls,
  curves: { Head: CurveEditor },
  hues: huesControls,
  lut: lutControls,
  noise: noiseControls,
  sharpen: sharpenControls,
  smooth: smoothControls,
};

/** Picks in the picture, by the names that controls use. */
export const PICKS: Partial<Record<string, PickDefinition>> = Object.assign(
  {},
  ...Object.values(CONTROLS).map((c) => c?.picks),
  regionPicks,
) as Partial<Record<string, PickDefinition>>;
