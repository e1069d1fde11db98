import { z } from 'zod';
import { adaptWorking } from '../../colour/adaptation';
import { encode709 } from '../../colour/transferTables';
import { luma709 } from '../../colour/ycbcr';
import { invert, multiply, transformInPlace, type Mat3, type Vec3 } from '../../colour/matrix';
import { WHITES } from '../../colour/primaries';
import { kelvinToXy } from '../../colour/temperature';
import { formatNumber, numberShape } from '../numbers';
import { BAND_EDGES, bandWeights } from '../bands/weights';
import { allNeutral, type NumberSpec, type StepKind } from '../types';
import { GAIN_LIMIT_STOPS, keepLuminance } from './gains';

/** D65 as kelvin and Duv, rounded as displayed: the neutral of this step. */
export const NEUTRAL_KELVIN = 6504;
export const NEUTRAL_DUV = 0.0032;

const is = (method: string) => (p: Record<string, unknown>) => p.method === method;
const kelvin = { unit: 'kelvin', min: 1667, max: 25000, neutral: NEUTRAL_KELVIN, step: 50 } as const;
const gain = {
  unit: 'factor',
  min: 2 ** -GAIN_LIMIT_STOPS,
  max: 2 ** GAIN_LIMIT_STOPS,
  neutral: 1,
  step: 0.01,
  when: is('gains'),
} as const;

const numbers = [
  { key: 'kelvin', label: 'White of the light', ...kelvin, when: is('white') },
  {
    key: 'duv',
    label: 'Tint (Duv)',
    unit: 'duv',
    min: -0.05,
    max: 0.05,
    neutral: NEUTRAL_DUV,
    step: 0.0005,
    when: is('white'),
  },
  { key: 'recorded', label: 'Recorded at', ...kelvin, neutral: 5500, when: is('recorded') },
  { key: 'should', label: 'Should be', ...kelvin, neutral: 5500, when: is('recorded') },
  { key: 'red', label: 'Red', ...gain },
  { key: 'green', label: 'Green', ...gain },
  { key: 'blue', label: 'Blue', ...gain },
] as const satisfies readonly NumberSpec[];

/** Bands of encoded luminance to which a balance can be limited. */
export const BALANCE_BANDS = ['overall', 'shadows', 'midtones', 'highlights'] as const;
const BAND_TITLES = { overall: 'Everything', shadows: 'Shadows', midtones: 'Midtones', highlights: 'Highlights' };

const schema = z.object({
  /**
   * white: the source white by kelvin and Duv. recorded: what the camera was set to, and what it should have been.
   * gains: per channel.
   */
  method: z.enum(['white', 'recorded', 'gains']).default('white'),
  adaptation: z.enum(['bradford', 'cat16']).default('bradford'),
  /** The part of the tonal range that it acts on; for a cast of one band only. */
  band: z.enum(BALANCE_BANDS).default('overall'),
  ...numberShape(numbers),
});
type Params = z.infer<typeof schema>;

const luminance = (rgb: Readonly<Vec3>): number => luma709(rgb[0], rgb[1], rgb[2]);

function matrixOf(p: Params): Mat3 {
  if (p.method === 'gains') {
    const [r, g, b] = keepLuminance([p.red, p.green, p.blue]);
    return [r, 0, 0, 0, g, 0, 0, 0, b];
  }
  if (p.method === 'recorded') {
    const white = (k: number) => adaptWorking(kelvinToXy({ kelvin: k, duv: NEUTRAL_DUV }), WHITES.D65, p.adaptation);
    return multiply(white(p.should), invert(white(p.recorded)));
  }
  return adaptWorking(kelvinToXy({ kelvin: p.kelvin, duv: p.duv }), WHITES.D65, p.adaptation);
}

/** White balance in linear light; the luminance of a neutral is kept. */
export const balance: StepKind<Params> = {
  kind: 'balance',
  title: 'Balance',
  help: 'Takes a colour cast off the whole picture: pick something neutral, or give kelvin and tint.',
  domain: 'linear',
  schema,
  numbers,
  choices: [
    { key: 'band', label: 'Acts on', options: BALANCE_BANDS.map((value) => ({ value, title: BAND_TITLES[value] })) },
  ],
  neutral: schema.parse({}),
  isNeutral(p) {
    if (p.method === 'recorded') return p.recorded === p.should;
    return allNeutral(
      numbers.filter((n) => n.when(p)),
      p,
    );
  },
  prepare(p) {
    const matrix = matrixOf(p);
    if (p.band === 'overall') return (rgb) => transformInPlace(matrix, rgb);
    const band = BALANCE_BANDS.indexOf(p.band) - 1;
    return (rgb) => {
      const share = bandWeights(encode709(luminance(rgb)), BAND_EDGES)[band];
      if (share === 0) return;
      const before: Vec3 = [rgb[0], rgb[1], rgb[2]];
      transformInPlace(matrix, rgb);
      for (let c = 0; c < 3; c += 1) rgb[c] = before[c] + share * (rgb[c] - before[c]);
    };
  },
  summary(p) {
    if (balance.isNeutral(p)) return 'neutral';
    const where = p.band === 'overall' ? '' : `${p.band}, `;
    if (p.method === 'recorded') return `${where}${Math.round(p.recorded)} → ${Math.round(p.should)} K`;
    return where + (p.method === 'white' ? formatNumber(numbers[0], p.kelvin) : 'by channel gains');
  },
};
