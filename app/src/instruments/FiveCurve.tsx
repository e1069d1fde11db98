import { useRef, useState } from 'react';
import { View } from 'react-native';
import Svg, { Circle, Line, Path } from 'react-native-svg';
import { monotoneCubic } from '@inkavo/core/steps/shared/tone';
import { formatNumber } from '@inkavo/core/steps/numbers';
import type { NumberSpec } from '@inkavo/core/steps';
import { useBench } from '../state/bench';
import { Txt } from '../ui/Txt';
import { useDrag } from '../ui/useDrag';
import { Keypad } from './Keypad';

const PLACES = [0, 0.25, 0.5, 0.75, 1];
const INSET = 14;

/** A curve through five points that move vertically; a tap on one opens the keypad. */
export function FiveCurve({
  id,
  spec,
  values,
  over,
  height,
}: {
  id: string;
  spec: NumberSpec;
  values: number[];
  over: string;
  height: number;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(300);
  const [held, setHeld] = useState<number | null>(null);
  const [typing, setTyping] = useState<number | null>(null);
  const { setParams, settle } = useBench.getState();
  const drag = useRef<{ values: number[]; index: number } | null>(null);
  const plot = { width: Math.max(60, width) - 2 * INSET, height: height - 2 * INSET };
  // The middle of the box is neutral; a scale up to four would be too coarse below it.
  const reach = spec.unit === 'factor' ? 1 : spec.max;
  const yOf = (v: number): number =>
    plot.height * (0.5 - (Math.min(spec.neutral + reach, v) - spec.neutral) / (2 * reach));
  const put = (index: number, value: number, live: boolean, from = values): void =>
    setParams(id, { [spec.key]: from.with(index, Math.min(spec.max, Math.max(spec.min, value))) }, live);

  useDrag(ref, {
    onStart: ({ x }) => {
      const index = Math.min(4, Math.max(0, Math.round((x / plot.width) * 4)));
      drag.current = { values, index };
      setHeld(index);
    },
    onMove: ({ dy, shift }) => {
      const d = drag.current;
      if (d) put(d.index, d.values[d.index] - ((dy * (shift ? 0.2 : 1)) / plot.height) * 2 * reach, true, d.values);
    },
    onEnd: (_p, moved) => {
      if (moved) settle();
      else setTyping(drag.current?.index ?? null);
      drag.current = null;
      setHeld(null);
    },
  });

  const curve = monotoneCubic(PLACES, values);
  const path = Array.from(
    { length: 61 },
    (_, i) => `${i ? 'L' : 'M'}${((i / 60) * plot.width).toFixed(1)} ${yOf(curve(i / 60)).toFixed(1)}`,
  ).join('');
  return (
    <View
      className="bg-scope"
      style={{ height }}
      onLayout={(e) => setWidth(e.nativeEvent.layout.width)}
      testID="five-curve"
    >
      <div
        ref={ref}
        role="application"
        aria-label={`${spec.label}: drag one of five places up or down; tap it to type`}
        style={{ position: 'absolute', inset: INSET, cursor: 'ns-resize' }}
      >
        <Svg width={plot.width} height={plot.height} style={{ overflow: 'visible' }} aria-hidden>
          {PLACES.map((p) => (
            <Line key={p} x1={p * plot.width} x2={p * plot.width} y1={0} y2={plot.height} stroke="#4a4a4a" />
          ))}
          <Line
            x1={0}
            x2={plot.width}
            y1={plot.height / 2}
            y2={plot.height / 2}
            stroke="#8c8c8c"
            strokeDasharray="3 5"
          />
          <Path d={path} stroke="#f4f4f4" strokeWidth={2} fill="none" />
          {PLACES.map((p, i) => (
            <Circle
              key={p}
              cx={p * plot.width}
              cy={yOf(values[i])}
              r={held === i ? 10 : 8}
              fill={values[i] === spec.neutral ? '#101010' : '#d7f75b'}
              stroke="#f4f4f4"
              strokeWidth={2}
            />
          ))}
        </Svg>
      </div>
      <View className="pointer-events-none absolute left-1 top-[1px] flex-row gap-2">
        <Txt size="sm" ink="text-scope-ink">
          {held === null ? `over ${over}` : `at ${PLACES[held] * 100} %: ${formatNumber(spec, values[held])}`}
        </Txt>
      </View>
      {typing !== null ? (
        <Keypad
          spec={{ ...spec, label: `${spec.label}, at ${PLACES[typing] * 100} %` }}
          value={values[typing]}
          onClose={() => setTyping(null)}
          onSet={(v) => {
            put(typing, v, false);
            setTyping(null);
          }}
        />
      ) : null}
    </View>
  );
}
