import { z } from 'zod';
import { decode709, encode709 } from '../../colour/transferTables';
import { formatNumber, numberShape } from '../numbers';
import { allNeutral, type NumberSpec, type StepKind } from '../types';
import { fiveLevels, midTone, softEnds, type Tone } from '../shared/tone';

const light = { group: 'Light' } as const;
const ends = { group: 'Ends', unit: 'percent', step: 0.005, neutral: 0 } as const;
const contrast = { group: 'Contrast' } as const;
const level = { group: 'Levels', unit: 'percent', min: -0.2, max: 0.2, neutral: 0, step: 0.005 } as const;

const numbers = [
  { key: 'black', label: 'Black point', min: -0.6, max: 0.6, ...ends },
  { key: 'white', label: 'White point', min: -0.6, max: 1.5, ...ends },
  { key: 'soft', label: 'Soft ends', min: 0, max: 0.25, ...ends },
  { key: 'exposure', label: 'Exposure', unit: 'stop', min: -5, max: 5, neutral: 0, step: 0.05, ...light },
  { key: 'mid', label: 'Mid', unit: 'percent', min: -0.35, max: 0.35, neutral: 0, step: 0.005, ...light },
  { key: 'contrast', label: 'Contrast', unit: 'factor', min: 0.2, max: 4, neutral: 1, step: 0.01, ...contrast },
  { key: 'pivot', label: 'Pivot', unit: 'percent', min: 0.05, max: 0.95, neutral: 0.41, step: 0.01, ...contrast },
  { key: 'level0', label: 'At 0 %', ...level },
  { key: 'level1', label: 'At 25 %', ...level },
  { key: 'level2', label: 'At 50 %', ...level },
  { key: 'level3', label: 'At 75 %', ...level },
  { key: 'level4', label: 'At 100 %', ...level },
] as const satisfies readonly NumberSpec[];

const EXPOSURE = { unit: 'stop', min: -5 } as const;

const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

/** Minimum distance between black and white point. */
const MIN_SPAN = 0.02;

function toneOf(p: Params): Tone {
  const parts: Tone[] = [];
  if (p.mid !== 0) parts.push(midTone(p.mid));
  const shifts = [p.level0, p.level1, p.level2, p.level3, p.level4];
  if (shifts.some((s) => s !== 0)) parts.push(fiveLevels(shifts));
  if (p.contrast !== 1) parts.push((x) => p.pivot + (x - p.pivot) * p.contrast);
  if (p.black !== 0 || p.white !== 0) {
    const span = Math.max(MIN_SPAN, 1 + p.white - p.black);
    parts.push((x) => p.black + x * span);
  }
  if (p.soft > 0) parts.push(softEnds(p.soft));
  if (parts.length === 1) return parts[0];
  return (x) => {
    let value = x;
    for (let i = 0; i < parts.length; i += 1) value = parts[i](value);
    return value;
  };
}

/**
 * Exposure in linear light, then on encoded values: mid, five levels, contrast about the pivot, black and white point,
 * soft ends. The points come late, so that they determine the final ends: black −4 % moves 0 to −4 %.
 */
export const range: StepKind<Params> = {
  kind: 'range',
  title: 'Range',
  help: 'Sets where dark, middle and bright lie: exposure, black and white point, contrast.',
  domain: 'encoded',
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) =>
    allNeutral(
      numbers.filter((n) => n.key !== 'pivot'),
      p,
    ),
  prepare(p) {
    const gain = 2 ** p.exposure;
    const tone = toneOf(p);
    return (rgb) => {
      for (let i = 0; i < 3; i += 1) {
        const exposed = gain === 1 ? rgb[i] : encode709(decode709(rgb[i]) * gain);
        rgb[i] = tone(exposed);
      }
    };
  },
  summary(p) {
    if (range.isNeutral(p)) return 'neutral';
    if (p.exposure !== 0) return formatNumber(EXPOSURE, p.exposure);
    if (p.black !== 0 || p.white !== 0)
      return `${(p.black * 100).toFixed(0)} … ${(100 + p.white * 100).toFixed(0)} %`.replace('-', '−');
    if (p.contrast !== 1) return `contrast ${p.contrast.toFixed(2)}`;
    return range.isNeutral({ ...p, soft: 0 }) ? 'soft ends' : 'levels';
  },
};
