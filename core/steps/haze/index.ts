import { z } from 'zod';
import { bt709 } from '../../colour/transfer';
import type { Vec3 } from '../../colour/matrix';
import { takeVeil, TAKE_VEIL_GLSL } from '../../fields/takeVeil';
import { MAP_END } from '../../fields/transmission';
import { veilMap } from '../../fields/veilMap';
import { numberShape } from '../numbers';
import type { NumberSpec, StepKind } from '../types';

const share = { unit: 'percent', min: 0, max: 1, step: 0.01 } as const;

const numbers = [
  { key: 'amount', label: 'Haze off', ...share, neutral: 0, group: 'Haze' },
  { key: 'near', label: 'Off the foreground', ...share, max: 0.9, neutral: 0, group: 'Haze' },
  { key: 'floor', label: 'Leave at least', ...share, min: 0.05, neutral: 0.2, group: 'Haze' },
  { key: 'airRed', label: 'Airlight red', ...share, neutral: 0.85, group: 'Airlight' },
  { key: 'airGreen', label: 'Airlight green', ...share, neutral: 0.87, group: 'Airlight' },
  { key: 'airBlue', label: 'Airlight blue', ...share, neutral: 0.9, group: 'Airlight' },
] as const satisfies readonly NumberSpec[];

const schema = z.object(numberShape(numbers));
export type HazeParams = z.infer<typeof schema>;

/**
 * Shares of the airlight between which a colour passes to one that is left alone: haze only ever brings things nearer to
 * the air's colour, so what is brighter is near by, or sky and clouds. Wide enough that no edge is drawn.
 */
const SKY_BEGINS = 1;
const SKY_WHOLE = 1.5;
const smooth = (v: number): number => {
  const t = v < 0 ? 0 : v > 1 ? 1 : v;
  return t * t * (3 - 2 * t);
};

const airlightOf = (p: HazeParams): Vec3 =>
  [p.airRed, p.airGreen, p.airBlue].map((v) => Math.max(1e-3, bt709.decode(v))) as Vec3;

/** Takes haze off the distance: I = J · t + A · (1 − t), solved for J (Koschmieder 1924). */
export const haze: StepKind<HazeParams> = {
  kind: 'haze',
  title: 'Haze',
  help: 'Takes haze off what lies far away and leaves what is near.',
  domain: 'linear',
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => p.amount === 0,
  prepare(p) {
    const air = airlightOf(p);
    return (rgb, map = 0) => {
      const over = Math.max(rgb[0] / air[0], rgb[1] / air[1], rgb[2] / air[2]);
      const kept = smooth((over - SKY_BEGINS) / (SKY_WHOLE - SKY_BEGINS));
      const through = Math.exp(-MAP_END * map) * (1 - p.near);
      const t = Math.max(p.floor, 1 - p.amount * (1 - kept) * (1 - through));
      for (let c = 0; c < 3; c += 1) rgb[c] = takeVeil(rgb[c], air[c] * (1 - t)) / t;
    };
  },
  field(p) {
    const air = airlightOf(p);
    return { estimate: (picture) => veilMap(picture, air), radius: 0.06, epsilon: 0.01 };
  },
  shader: {
    functions: TAKE_VEIL_GLSL,
    body: `
  vec4 air = texelFetch(data, ivec2(0, 0), 0);     // and the amount
  vec4 more = texelFetch(data, ivec2(1, 0), 0);    // floor, foreground, the map's end
  vec3 shares = rgb / air.rgb;
  float t = clamp((max(shares.r, max(shares.g, shares.b)) - ${SKY_BEGINS.toFixed(1)}) / ${(SKY_WHOLE - SKY_BEGINS).toFixed(4)}, 0.0, 1.0);
  float kept = t * t * (3.0 - 2.0 * t);
  float through = exp(-more.z * map) * (1.0 - more.y);
  float left = max(more.x, 1.0 - air.w * (1.0 - kept) * (1.0 - through));
  return takeVeil(rgb, air.rgb * (1.0 - left)) / left;`,
    data: (p) => Float32Array.from([...airlightOf(p), p.amount, p.floor, p.near, MAP_END, 0]),
  },
  summary: (p) => (p.amount === 0 ? 'neutral' : `${Math.round(p.amount * 100)} % off`),
};
