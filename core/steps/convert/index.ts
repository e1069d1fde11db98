import { z } from 'zod';
import { toWorking } from '../../colour/adaptation';
import { IDENTITY3, transformInPlace, type Mat3 } from '../../colour/matrix';
import { isStandard, profileSchema, resolvePrimaries, STANDARD } from '../../model/profile';
import { formatNumber, numberShape } from '../numbers';
import type { NumberSpec, StepKind } from '../types';
import { compressGamut } from './gamut';
import { rollOff } from './rollOff';
import { signalToLinear } from './transfer';

const numbers = [
  { key: 'exposure', label: 'Exposure offset', unit: 'stop', min: -6, max: 6, neutral: 0, step: 0.05 },
  { key: 'rollOff', label: 'Roll-off starts at', unit: 'percent', min: 0.4, max: 1, neutral: 1, step: 0.01 },
  { key: 'gamut', label: 'Gamut compression', unit: 'percent', min: 0, max: 1, neutral: 1, step: 0.05 },
] as const satisfies readonly NumberSpec[];

const schema = z.object({ profile: profileSchema.default(STANDARD), ...numberShape(numbers) });
type Params = z.infer<typeof schema>;

/** Profile to working light: inverse transfer function, exposure, primaries, roll-off, gamut compression. */
export const convert: StepKind<Params> = {
  kind: 'convert',
  title: 'Convert',
  help: 'Turns a flat, log or HDR recording into standard video.',
  domain: 'code',
  schema,
  numbers,
  neutral: schema.parse({}),
  // Gamut compression has nothing to do for standard video.
  isNeutral: (p) => isStandard(p.profile) && p.exposure === 0 && p.rollOff === 1,
  prepare(p) {
    const decode = signalToLinear(p.profile.transfer);
    const gain = 2 ** p.exposure;
    const wide = p.profile.primaries !== 'bt709';
    const matrix: Mat3 = wide ? toWorking(resolvePrimaries(p.profile.primaries)) : IDENTITY3;
    const shoulder = rollOff(p.rollOff);
    return (rgb) => {
      for (let i = 0; i < 3; i += 1) rgb[i] = decode(rgb[i]) * gain;
      if (wide) transformInPlace(matrix, rgb);
      for (let i = 0; i < 3; i += 1) rgb[i] = shoulder(rgb[i]);
      if (wide && p.gamut > 0) compressGamut(rgb, p.gamut);
    };
  },
  summary: (p) => (p.exposure === 0 ? p.profile.name : `${p.profile.name}, ${formatNumber(numbers[0], p.exposure)}`),
};
