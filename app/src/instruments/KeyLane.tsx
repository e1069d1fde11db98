import { useRef, useState } from 'react';
import { View } from 'react-native';
import Svg, { Line, Path, Rect } from 'react-native-svg';
import { valueAt, withMovedKey, type Keyframed } from '@inkavo/core/regions/keyframes';
import { formatNumber } from '@inkavo/core/steps/numbers';
import type { NumberSpec } from '@inkavo/core/steps';
import { Txt } from '../ui/Txt';
import { useDrag } from '../ui/useDrag';

interface Props {
  spec: NumberSpec;
  number: Keyframed;
  /** The visible part of the clip (start and duration) and the playhead, in seconds. */
  begin: number;
  length: number;
  playhead: number;
  width: number;
  height: number;
  onChange(number: Keyframed, live: boolean): void;
  onSettle(): void;
  /** A key was tapped. */
  onGo(seconds: number): void;
}

/** Hit radius of a key. */
const REACH = 24;
const EDGE = 12;
/** Half a key's diagonal. */
const KEY = 8;

/** The range of values shown: that of the keys, with a margin above. */
function span({ keys }: Keyframed, spec: NumberSpec): [number, number] {
  const values = keys.map((k) => k.value);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const room = Math.max((high - low) * 0.25, spec.step * 10);
  return [Math.max(spec.min, low - room), Math.min(spec.max, high + room)];
}

/**
 * A keyframed number over the clip, as wide as the scrub strip: keys are dragged in time and value; a tap goes to one.
 */
export function KeyLane({ spec, number, begin, length, playhead, width, height, onChange, onSettle, onGo }: Props) {
  const ref = useRef<HTMLDivElement>(null);
  // The scale is fixed while a key is dragged.
  const [held, setHeld] = useState<{ index: number; span: [number, number]; from: Keyframed } | null>(null);
  const [low, high] = held?.span ?? span(number, spec);
  const x = (seconds: number): number => ((seconds - begin) / length) * width;
  const y = (value: number): number => EDGE + ((high - value) / Math.max(1e-9, high - low)) * (height - 2 * EDGE);
  useDrag(ref, {
    onStart: (p) => {
      const away = number.keys.map((k) => Math.hypot(x(k.seconds) - p.x, y(k.value) - p.y));
      const index = away.indexOf(Math.min(...away));
      if (away[index] > REACH) return false;
      setHeld({ index, span: [low, high], from: number });
      return true;
    },
    onMove: (p) => {
      if (!held) return;
      const seconds = begin + Math.min(length, Math.max(0, (p.x / width) * length));
      const share = (p.y - EDGE) / (height - 2 * EDGE);
      const value = Math.min(spec.max, Math.max(spec.min, high - share * (high - low)));
      onChange(withMovedKey(held.from, held.index, { seconds, value }), true);
    },
    onEnd: (_p, moved) => {
      setHeld(null);
      if (moved) onSettle();
      else if (held) onGo(held.from.keys[held.index].seconds);
    },
  });
  const steps = Math.max(2, Math.round(width / 3));
  const path = Array.from({ length: steps + 1 }, (_, i) => {
    const t = begin + (i / steps) * length;
    return `${i ? 'L' : 'M'}${x(t).toFixed(1)} ${y(valueAt(number, t)).toFixed(1)}`;
  }).join('');
  return (
    <View>
      <div
        ref={ref}
        role="application"
        aria-label={`${spec.label} over the clip: ${number.keys.length} keyframes; drag one to move it, tap one to go there`}
        data-testid="key-lane"
        style={{ width, height, position: 'relative', background: 'var(--scope)', cursor: 'pointer' }}
      >
        <Svg width={width} height={height}>
          <Path d={path} stroke="#ffffff" strokeWidth={2} fill="none" />
          <Line x1={x(playhead)} x2={x(playhead)} y1={0} y2={height} stroke="#d7f75b" strokeWidth={2} />
          {number.keys.map((k) => {
            const here = Math.abs(k.seconds - playhead) < 0.004;
            const [cx, cy] = [x(k.seconds), y(k.value)];
            return k.ease === 'hold' ? (
              <Rect
                key={k.seconds}
                x={cx - KEY * 0.75}
                y={cy - KEY * 0.75}
                width={KEY * 1.5}
                height={KEY * 1.5}
                fill={here ? '#d7f75b' : '#ffffff'}
                stroke="#000000"
              />
            ) : (
              <Path
                key={k.seconds}
                d={`M${cx} ${cy - KEY}L${cx + KEY} ${cy}L${cx} ${cy + KEY}L${cx - KEY} ${cy}Z`}
                fill={here ? '#d7f75b' : '#ffffff'}
                stroke="#000000"
              />
            );
          })}
        </Svg>
        <Txt size="sm" ink="text-white" className="pointer-events-none absolute left-1 top-0">
          {formatNumber(spec, high)}
        </Txt>
        <Txt size="sm" ink="text-white" className="pointer-events-none absolute bottom-0 left-1">
          {formatNumber(spec, low)}
        </Txt>
      </div>
    </View>
  );
}
