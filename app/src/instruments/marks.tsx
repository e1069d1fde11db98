import Svg, { Circle, Path } from 'react-native-svg';
import type { Mark } from '@inkavo/core/scopes/readings';

const SIZE = 16;
const PATHS = {
  shadows: 'M1 3 L15 3 L8 14 Z',
  highlights: 'M1 13 L15 13 L8 2 Z',
  overall: 'M8 1 L15 8 L8 15 L1 8 Z',
} as const;

/** The mark of a part of the tonal range, distinguished by shape. */
export function MarkIcon({ mark, colour = 'var(--ink)', size = SIZE }: { mark: Mark; colour?: string; size?: number }) {
  return (
    <Svg width={size} height={size} viewBox={`0 0 ${SIZE} ${SIZE}`} aria-hidden>
      {mark === 'midtones' ? <Circle cx={8} cy={8} r={6.5} fill={colour} /> : <Path d={PATHS[mark]} fill={colour} />}
    </Svg>
  );
}
