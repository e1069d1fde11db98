import { z } from 'zod';
import { luma709 } from '../../colour/ycbcr';
import { numberShape } from '../numbers';
import { allNeutral, type NumberSpec, type StepKind } from '../types';
import { BAND_EDGES, bandWeights, orderedEdges } from './weights';

const BANDS = ['shadows', 'midtones', 'highlights', 'overall'] as const;
type Name = (typeof BANDS)[number];
/** Overall saturation belongs to the saturation step. */
const hasSaturation = (key: string): boolean => key !== 'overallSaturation';
const title = (band: Name): string => band[0].toUpperCase() + band.slice(1);

const numbersOf = (band: Name) => {
  const [group, name] = [title(band), title(band)];
  const move = { unit: 'percent', neutral: 0 } as const;
  return [
    { key: `${band}Level`, label: 'Level', group, min: -0.4, max: 0.4, step: 0.005, ...move },
    { key: `${band}Cb`, label: 'Towards blue', group, min: -0.25, max: 0.25, step: 0.0025, ...move },
    { key: `${band}Cr`, label: 'Towards red', group, min: -0.25, max: 0.25, step: 0.0025, ...move },
    {
      key: `${band}Saturation`,
      label: name,
      group: 'Saturation',
      unit: 'factor',
      min: 0,
      max: 4,
      neutral: 1,
      step: 0.02,
    },
  ] as const;
};

type Key = `${Name}${'Level' | 'Cb' | 'Cr'}` | `${Exclude<Name, 'overall'>}Saturation` | 'lowEdge' | 'highEdge';
const edge = { group: 'Edges', unit: 'percent', step: 0.01 } as const;
export const EDGE_NUMBERS = [
  { key: 'lowEdge', label: 'Shadows end at', min: 0.05, max: 0.7, neutral: BAND_EDGES.low, ...edge },
  { key: 'highEdge', label: 'Highlights begin at', min: 0.3, max: 0.95, neutral: BAND_EDGES.high, ...edge },
] as const;
const colourNumbers = BANDS.flatMap((b) => numbersOf(b)).filter((n) => hasSaturation(n.key)) as readonly (NumberSpec & {
  key: Key;
})[];
const byGroup = [
  ...colourNumbers.filter((n) => n.group !== 'Saturation'),
  ...colourNumbers.filter((n) => n.group === 'Saturation'),
];
const numbers = [...byGroup, ...EDGE_NUMBERS] as readonly (NumberSpec & { key: Key })[];
const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

/**
 * Level, colour and saturation of shadows, midtones, highlights and of everything, on encoded values. Colour shifts Cb
 * and Cr at constant luma, as shares of 1 (the vectorscope's radius is 0.5); level shifts luma. The bands overlap
 * smoothly and add up to 1; their edges are adjustable.
 */
export const bands: StepKind<Params> = {
  kind: 'bands',
  title: 'Bands',
  help: 'Colour, level and saturation of shadows, midtones and highlights, each on its own, with edges that move.',
  domain: 'encoded',
  schema,
  numbers,
  neutral: schema.parse({}),
  // The edges have no effect while no band is changed.
  isNeutral: (p) => allNeutral(colourNumbers, p),
  prepare(p) {
    const edges = orderedEdges(p.lowEdge, p.highEdge);
    const of = (what: 'Level' | 'Cb' | 'Cr') => BANDS.map((b) => p[`${b}${what}`]);
    const [level, cb, cr] = [of('Level'), of('Cb'), of('Cr')];
    const saturation = [p.shadowsSaturation, p.midtonesSaturation, p.highlightsSaturation];
    return (rgb) => {
      const y = luma709(rgb[0], rgb[1], rgb[2]);
      const [s, m, h] = bandWeights(y, edges);
      const mix = (v: readonly number[]): number => s * v[0] + m * v[1] + h * v[2];
      const gain = mix(saturation);
      const u = mix(cb) + cb[3];
      const v = mix(cr) + cr[3];
      const l = y + mix(level) + level[3];
      const blue = (rgb[2] - y) * gain + 1.8556 * u;
      const red = (rgb[0] - y) * gain + 1.5748 * v;
      rgb[0] = l + red;
      rgb[2] = l + blue;
      rgb[1] = l - (0.2126 * red + 0.0722 * blue) / 0.7152;
    };
  },
  summary(p) {
    const changed = BANDS.filter((b) => colourNumbers.some((n) => n.key.startsWith(b) && p[n.key] !== n.neutral));
    return changed.length ? changed.join(', ') : 'neutral';
  },
};
