import { z } from 'zod';
import { bt709 } from '../../colour/transfer';
import { luma709 } from '../../colour/ycbcr';
import type { Vec3 } from '../../colour/matrix';
import type { FieldSpec, LinearPicture } from '../../fields/map';
import { openWaterMap } from '../../fields/openWater';
import { MAP_END, OMEGA } from '../../fields/transmission';
import { sampledCells } from '../../fields/samples';
import { veilMap } from '../../fields/veilMap';
import type { FormulaValues } from '../../formula/formula';
import { numberShape } from '../numbers';
import { ofFormula } from '../ofFormula';
import type { NumberSpec, StepKind } from '../types';
import { WATER } from './formula';
import { lightLeft, WATER_TYPES, type WaterType } from './waters';

const share = { unit: 'percent', min: 0, max: 1, step: 0.01 } as const;
const veil = { ...share, neutral: 0, group: 'Veil' } as const;
const fit = { unit: 'factor', min: 0.25, max: 4, neutral: 1, step: 0.01, group: 'Fit' } as const;
/** Limits of a measured loss of red or blue, relative to the type's. */
export const FIT_LIMITS = [fit.min, fit.max] as const;
/** Maximum encoded value of an estimated veil. */
export const MOST_VEIL = 0.95;

const limit = { unit: 'stop', min: 0, max: 6, neutral: 3, step: 0.1, group: 'Gain' } as const;

/** Whether a step can tell open water from objects. */
const findsOpen = ({ openWater, distanceFrom }: Record<string, unknown>): boolean =>
  openWater === 'look' || distanceFrom === 'picture';

const numbers = [
  { key: 'depth', label: 'Depth', unit: 'metre', min: 0, max: 60, neutral: 0, step: 0.1, group: 'Water' },
  { key: 'distance', label: 'Nearest things', unit: 'metre', min: 0, max: 20, neutral: 0, step: 0.1, group: 'Water' },
  { key: 'density', label: 'Density', ...fit, max: 8, group: 'Water' },
  { key: 'fitRed', label: 'Loss of red', ...fit },
  { key: 'fitBlue', label: 'Loss of blue', ...fit },
  { key: 'rebuild', label: 'Lost from green', ...share, neutral: 1, group: 'Fit' },
  { key: 'limitRed', label: 'Most for red', ...limit },
  { key: 'limitGreen', label: 'Most for green', ...limit },
  { key: 'limitBlue', label: 'Most for blue', ...limit },
  { key: 'veilRed', label: 'Red', ...veil },
  { key: 'veilGreen', label: 'Green', ...veil },
  { key: 'veilBlue', label: 'Blue', ...veil },
  { key: 'veil', label: 'Veil off', ...share, neutral: 1, group: 'Open water' },
  { key: 'keepWater', label: 'Keep open water', ...share, neutral: 1, group: 'Open water', when: findsOpen },
  {
    key: 'waterTint',
    label: 'Greener or bluer',
    unit: 'percent',
    min: -1,
    max: 1,
    neutral: 0,
    step: 0.02,
    group: 'Open water',
    when: findsOpen,
  },
] as const satisfies readonly NumberSpec[];

const TYPE_TITLES: Record<WaterType, string> = {
  I: 'Ocean I, clearest',
  IA: 'Ocean IA',
  IB: 'Ocean IB',
  II: 'Ocean II',
  III: 'Ocean III',
  C1: 'Coast 1',
  C3: 'Coast 3',
  C5: 'Coast 5',
  C7: 'Coast 7',
  C9: 'Coast 9, murkiest',
};

const schema = z.object({
  /** Optical water type (Jerlov 1976). */
  type: z.enum(WATER_TYPES as [WaterType, ...WaterType[]]).default('C1'),
  /** Source of distances: one for the whole frame, or a map estimated from each frame. */
  distanceFrom: z.enum(['picture', 'value']).default('picture'),
  /** How open water, which keeps its colour, is detected: also by its look in each frame, or by distance alone. */
  openWater: z.enum(['look', 'distance']).default('look'),
  ...numberShape(numbers),
});
export type WaterParams = z.infer<typeof schema>;

/** Bisection steps for a distance: to less than a millimetre. */
const HALVINGS = 22;
/** Number of samples of transmission over distance. */
const SAMPLES = 48;
/** Share of a frame that counts as near: at the distance of the nearest objects. */
const NEAREST = 0.1;
/** Transmission range over which open water takes over. */
const WATER_BEGINS = 0.3;
const WATER_WHOLE = 0.13;
const clamp01 = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v);
const smooth = (t: number): number => t * t * (3 - 2 * t);

/** Colour of the open water in linear light, from encoded values as typed and picked. */
const veilOf = (p: WaterParams): Vec3 => [p.veilRed, p.veilGreen, p.veilBlue].map(bt709.decode) as Vec3;
const hasVeil = (p: WaterParams): boolean => p.veilRed > 0 || p.veilGreen > 0 || p.veilBlue > 0;
/** Whether distances come from the picture, and whether the open water map does. */
const usesMap = (p: WaterParams): boolean => p.distanceFrom === 'picture' && hasVeil(p);
const looksForOpen = (p: WaterParams): boolean => p.openWater === 'look' && p.keepWater > 0;

/** Minimum light: keeps divisions finite in 32 bits. */
const DARK = 1e-9;

/** Transmission of each channel, with the fits measured in this clip. */
export function waterLeft(p: WaterParams, down: number, across: number): Vec3 {
  const [r, g, b] = lightLeft(p.type, down, across, p.density);
  return [Math.max(DARK, r ** p.fitRed), Math.max(DARK, g), Math.max(DARK, b ** p.fitBlue)];
}

/** Horizontal distance in metres at which green light has an optical depth of {@link MAP_END}: where the map is 1. */
function mapReach(p: WaterParams): number {
  let [near, far] = [0, 1];
  while (waterLeft(p, 0, far)[1] > 1 - OMEGA && far < 1000) far *= 2;
  for (let i = 0; i < HALVINGS; i += 1) {
    const middle = (near + far) / 2;
    if (waterLeft(p, 0, middle)[1] > 1 - OMEGA) near = middle;
    else far = middle;
  }
  return far;
}

/** What affects a channel along its path, at evenly spaced distances. */
interface Path {
  /** Gain that compensates the loss, preserving the luminance of a near neutral; before the limit. */
  gain: Vec3;
  /** Share of the veil in the light. */
  haze: Vec3;
  /** Share treated as open water, which keeps its colour, 0–1. */
  kept: number;
}

function pathAt(p: WaterParams, across: number): Path {
  const here = waterLeft(p, p.depth, 0);
  const norm = luma709(...here);
  const left = waterLeft(p, p.depth, across);
  const seen = left.map((l, c) => l / here[c]) as Vec3;
  const open = smooth(clamp01((WATER_BEGINS - seen[1]) / (WATER_BEGINS - WATER_WHOLE)));
  return {
    gain: left.map((l) => norm / l) as Vec3,
    haze: seen.map((s) => 1 - s) as Vec3,
    kept: usesMap(p) ? p.keepWater * open : 0,
  };
}

/** Everything independent of the colour: curves over the map, and numbers. */
function valuesOf(p: WaterParams): FormulaValues<(typeof WATER.numbers)[number], (typeof WATER.curves)[number]> {
  // The map is optical depth of green; metres follow from inverting the water's transmission.
  const mapped = usesMap(p);
  const reach = mapped ? mapReach(p) : 0;
  const open = !mapped && looksForOpen(p);
  const count = mapped || open ? SAMPLES : 1;
  const paths = Array.from({ length: count + 1 }, (_, i) => {
    const path = pathAt(p, p.distance + (mapped ? metresAt(p, (i / count) * MAP_END, reach) : 0));
    // At a single distance the map is the likelihood of open water.
    return open ? { ...path, kept: p.keepWater * smooth(i / count) } : path;
  });
  const [veilRed, veilGreen, veilBlue] = veilOf(p).map((v) => v * p.veil);
  const [limitRed, limitGreen, limitBlue] = [p.limitRed, p.limitGreen, p.limitBlue].map((l) => 2 ** l);
  const [gainRed, gainGreen, gainBlue] = [0, 1, 2].map((c) => paths.map((path) => path.gain[c]));
  const [hazeRed, hazeGreen, hazeBlue] = [0, 1, 2].map((c) => paths.map((path) => path.haze[c]));
  return {
    numbers: {
      ...{ veilRed, veilGreen, veilBlue, limitRed, limitGreen, limitBlue, rebuild: p.rebuild },
      ...{ tintGreen: 2 ** (-0.6 * p.waterTint), tintBlue: 2 ** (0.6 * p.waterTint), mapped: mapped ? 1 : 0 },
    },
    curves: { gainRed, gainGreen, gainBlue, kept: paths.map((path) => path.kept), hazeRed, hazeGreen, hazeBlue },
  };
}

/**
 * Horizontal distance in metres at which green has this optical depth; green's own loss changes slowly with distance.
 */
function metresAt(p: WaterParams, opticalDepth: number, reach: number): number {
  const target = Math.exp(-opticalDepth);
  let [near, far] = [0, reach];
  for (let i = 0; i < HALVINGS; i += 1) {
    const middle = (near + far) / 2;
    if (waterLeft(p, 0, middle)[1] > target) near = middle;
    else far = middle;
  }
  return (near + far) / 2;
}

/** Likelihood of open water up to which none is kept, and from which all of it is; by judgement. */
const HARDLY_OPEN = 0.2;
const SURELY_OPEN = 0.8;

/** Likelihood that each cell is open water, and whether its colour is kept. */
const openIn = (picture: LinearPicture): Float32Array =>
  openWaterMap(picture).map((v) => smooth(clamp01((v - HARDLY_OPEN) / (SURELY_OPEN - HARDLY_OPEN))));

/** Open water lies at the far end of a distance map. */
function distances(p: WaterParams, picture: LinearPicture): Float32Array {
  const map = veilMap(picture, veilOf(p), NEAREST);
  if (!looksForOpen(p)) return map;
  const open = openIn(picture);
  return map.map((v, i) => v + (1 - Math.min(1, v)) * p.keepWater * open[i]);
}

/** The step's map: distances, or open water; without either it is pointwise. */
function field(p: WaterParams): FieldSpec | undefined {
  const refined = { reads: sampledCells, radius: 0.06, epsilon: 0.01 };
  if (usesMap(p)) return { estimate: (picture) => distances(p, picture), ...refined };
  if (looksForOpen(p) && !water.isNeutral(p)) return { estimate: openIn, ...refined };
  return undefined;
}

/** Undoes the effect of water on light: I = J · exp(−Kd · z − β · r) + V · (1 − exp(−β · r)), solved for J. */
export const water: StepKind<WaterParams> = {
  kind: 'water',
  title: 'Water',
  help: 'Brings back the colours that water took, by depth and distance, and takes its veil off.',
  ...ofFormula(WATER, valuesOf),
  schema,
  numbers,
  choices: [
    {
      key: 'type',
      label: 'Water',
      options: WATER_TYPES.map((value) => ({ value, title: TYPE_TITLES[value] })),
    },
    {
      key: 'distanceFrom',
      label: 'Distance from',
      options: [
        { value: 'picture', title: 'the picture' },
        { value: 'value', title: 'one number' },
      ],
    },
    {
      key: 'openWater',
      label: 'Open water by',
      options: [
        { value: 'look', title: 'how it looks' },
        { value: 'distance', title: 'its distance' },
      ],
    },
  ],
  // Before open water was detected by its look.
  upgrades: [(params) => ({ openWater: 'distance', ...params })],
  neutral: schema.parse({}),
  isNeutral: (p) => p.depth === 0 && p.distance === 0 && !usesMap(p),
  field,
  summary: (p) => (water.isNeutral(p) ? 'neutral' : `${p.depth.toFixed(1)} m, ${TYPE_TITLES[p.type].split(',')[0]}`),
};
