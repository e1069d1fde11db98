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

/** Each kind's own controls, where it has any. */
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

/** What can be picked in the picture, by the names that controls give it. */
export const PICKS: Partial<Record<string, PickDefinition>> = Object.assign(
  {},
  ...Object.values(CONTROLS).map((c) => c?.picks),
  regionPicks,
) as Partial<Record<string, PickDefinition>>;
