import { regionSchema, type Region } from '../../regions/region';
import type { NumberSpec, StepKind } from '../types';

const numbers = [
  { key: 'strength', label: 'Strength', unit: 'percent', min: 0, max: 1, neutral: 1, step: 0.01, group: 'Region' },
] as const satisfies readonly NumberSpec[];

/** With keyframes resolved. */
type RegionNow = Region & { strength: number };

const words = { both: 'both', either: 'either', without: 'without' } as const;

/**
 * A region. It is stored among the steps of a list, so that it is saved, copied and undone with them, and has no effect
 * itself: steps refer to it by its id.
 */
export const region: StepKind<RegionNow> = {
  kind: 'region',
  title: 'Region',
  help: 'A place in the picture, by shape or by colour, where steps act.',
  domain: 'encoded',
  schema: regionSchema as unknown as StepKind<RegionNow>['schema'],
  numbers,
  neutral: regionSchema.parse({}) as RegionNow,
  isNeutral: () => true,
  prepare: () => () => undefined,
  summary({ shapes, matte, join, inverted }) {
    const parts = [
      ...(shapes.length ? [shapes.length === 1 ? shapes[0].kind : `${shapes.length} shapes`] : []),
      ...(matte?.like ? ['by colour'] : []),
      ...(matte?.lightness ? ['by lightness'] : []),
    ];
    const joined = shapes.length && matte && join !== 'both' ? ` (${words[join]})` : '';
    return `${inverted ? 'all but ' : ''}${parts.join(', ') || 'everything'}${joined}`;
  },
};
