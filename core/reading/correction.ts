import type { Vec3 } from '../colour/matrix';
import { decode709 } from '../colour/transferTables';
import { GRID_CELLS, type Grid } from './grid';

/**
 * Turns a recording into what it should look like, in this order: a flat recording's levels and curve, the veil, gains,
 * saturation. Neutral numbers have no effect.
 */
export interface Correction {
  /** Code value of black in a flat recording, and the logarithm of the factor that expands its range. */
  black: number;
  widen: number;
  /** How strongly a logarithmic curve opens the shadows (log of CLF's linSideSlope); 0: the BT.709 curve. */
  open: number;
  /** Light of a uniform veil, linear. */
  veil: Vec3;
  /** The veil's colour, linear, where its density varies over the picture. */
  air: Vec3 | null;
  /** Gain of each channel in linear light, natural logarithms. */
  gain: Vec3;
  /** Saturation, natural logarithm of its factor. */
  saturation: number;
}

/** Measurements of a frame relative to which a correction is estimated. */
export interface Anchors {
  /** Encoded value of the darkest channel's first percentile. */
  black: number;
  /** Light of each channel's first and 95th percentile. */
  low: Vec3;
  high: Vec3;
  /** Light of the cells with the brightest dark channel: the airlight, if there is haze. */
  air: Vec3;
}

const BLACK_AT = 0.01;
const WHITE_AT = 0.95;
const AIR_AT = 0.95;

/** Measures the anchors of one frame. */
export function anchorsOf(grid: Grid): Anchors {
  const linear = grid.map(decode709);
  const sorted = [0, 1, 2].map((c) => new Float32Array(GRID_CELLS).map((_, i) => linear[3 * i + c]).sort());
  const encoded = [0, 1, 2].map((c) => new Float32Array(GRID_CELLS).map((_, i) => grid[3 * i + c]).sort());
  const place = (share: number): number => Math.floor(share * GRID_CELLS);
  const least = new Float32Array(GRID_CELLS).map((_, i) =>
    Math.min(linear[3 * i], linear[3 * i + 1], linear[3 * i + 2]),
  );
  const bright = least.slice().sort()[place(AIR_AT)];
  const air = [0, 1, 2].map((c) => {
    const some: number[] = [];
    for (let i = 0; i < GRID_CELLS; i += 1) if (least[i] >= bright) some.push(linear[3 * i + c]);
    some.sort((a, b) => a - b);
    return Math.max(0.02, some[some.length >> 1]);
  });
  return {
    black: Math.max(0, Math.min(...encoded.map((s) => s[place(BLACK_AT)]))),
    low: sorted.map((s) => Math.max(1e-4, s[place(BLACK_AT)])) as Vec3,
    high: sorted.map((s) => Math.max(1e-3, s[place(WHITE_AT)])) as Vec3,
    air: air as Vec3,
  };
}

/** Faults of a clip, each mended by one kind of correction. */
export const FAULTS = ['water', 'haze', 'flat', 'white'] as const;
export type Fault = (typeof FAULTS)[number];

/** Outputs of the estimators: black, expansion, three of the veil, three gains, saturation, gate, shadow opening. */
export const OUTPUTS = 11;
const [BLACK, WIDEN, VEIL, GAIN, SATURATION, GATE, OPEN] = [0, 1, 2, 5, 8, 9, 10];

/** Offsets, so that outputs near 0 are the default without evidence. */
const WIDEN_FROM = 0.25;
const OPEN_FROM = 2.3;
const SHARE_FROM = 1;
/** Target white that the shades-of-grey estimate of the highlights is scaled to when the light is assumed even. */
const HIGH_TO = 0.5;
/** Default share of the darkest light that counts as veil. */
const VEILED = 0.8;

const sigmoid = (v: number): number => 1 / (1 + Math.exp(-v));

/** Derivative of one number of a correction with respect to one output, for training. */
export interface Dependence {
  of: 'black' | 'widen' | 'open' | 'saturation' | `veil${number}` | `air${number}` | `gain${number}`;
  output: number;
  slope: number;
}

/** Converts outputs to a correction. With `slopes`, also returns the derivatives. */
export function correctionOf(
  fault: Fault,
  outputs: ArrayLike<number>,
  anchors: Anchors,
  slopes?: Dependence[],
): Correction {
  const made: Correction = {
    black: 0,
    widen: 0,
    open: 0,
    veil: [0, 0, 0],
    air: null,
    gain: [0, 0, 0],
    saturation: outputs[SATURATION],
  };
  slopes?.push({ of: 'saturation', output: SATURATION, slope: 1 });
  if (fault === 'flat') {
    const share = sigmoid(outputs[BLACK] + SHARE_FROM);
    made.black = anchors.black * share;
    made.widen = WIDEN_FROM + outputs[WIDEN];
    made.open = Math.max(0.01, OPEN_FROM + outputs[OPEN]);
    slopes?.push({ of: 'black', output: BLACK, slope: anchors.black * share * (1 - share) });
    slopes?.push({ of: 'widen', output: WIDEN, slope: 1 });
    if (made.open > 0.01) slopes?.push({ of: 'open', output: OPEN, slope: 1 });
  }
  if (fault === 'haze') made.air = [0, 0, 0];
  const gate = sigmoid(outputs[GATE]);
  for (let c = 0; c < 3; c += 1) {
    made.gain[c] = outputs[GAIN + c];
    slopes?.push({ of: `gain${c}`, output: GAIN + c, slope: 1 });
    if (made.air) {
      made.air[c] = anchors.air[c] * Math.exp(outputs[VEIL + c]);
      slopes?.push({ of: `air${c}`, output: VEIL + c, slope: made.air[c] });
    }
    if (fault === 'water') {
      const share = sigmoid(outputs[VEIL + c] + SHARE_FROM);
      made.veil[c] = anchors.low[c] * share;
      slopes?.push({ of: `veil${c}`, output: VEIL + c, slope: made.veil[c] * (1 - share) });
    }
    if (fault === 'water' || fault === 'white') {
      const veiled = fault === 'water' ? VEILED * anchors.low[c] : 0;
      const even = Math.log(HIGH_TO / Math.max(1e-3, anchors.high[c] - veiled));
      made.gain[c] += gate * even;
      slopes?.push({ of: `gain${c}`, output: GATE, slope: gate * (1 - gate) * even });
    }
  }
  return made;
}
