import { useRef, useState } from 'react';
import { View } from 'react-native';
import Svg, { Circle, Line, Path } from 'react-native-svg';
import { curveOf, type CurvePoint } from '@inkavo/core/steps/curves';
import { useBench } from '../state/bench';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Trash } from '../ui/icons';
import { Sheet } from '../ui/Sheet';
import { Txt } from '../ui/Txt';
import { useDrag } from '../ui/useDrag';
import { addPoint, movePoint, nearestPoint, pathOf, placePoint, removePoint, type CurveBox } from './curvePoints';
import { Ruler } from './Ruler';

const CURVES = [
  { value: 'all', title: 'All' },
  { value: 'red', title: 'Red' },
  { value: 'green', title: 'Green' },
  { value: 'blue', title: 'Blue' },
] as const;
type Which = (typeof CURVES)[number]['value'];
const INKS: Record<Which, string> = { all: '#f4f4f4', red: '#ff5c54', green: '#54e86e', blue: '#6898ff' };

/** Hit radius of a point, in pixels. */
const GRAB = 26;
/** Distance outside the box, in pixels, at which a dragged point is removed. */
const OUT = 36;
/** Padding around the box, so that the ends of the curve can be grabbed. */
const INSET = 10;
const HEIGHT = 134;
const WIDE_HEIGHT = 292;

/** A curve editor: a tap on the line adds a point, a drag moves it, dragging it out of the box removes it. */
export function CurveEditor({ id, params, wide }: { id: string; params: Record<string, unknown>; wide?: boolean }) {
  const ref = useRef<HTMLDivElement>(null);
  const [which, setWhich] = useState<Which>('all');
  const [width, setWidth] = useState(300);
  const [held, setHeld] = useState<number | null>(null);
  const [typed, setTyped] = useState<number | null>(null);
  const { setParams, settle } = useBench.getState();
  const points = params[which] as CurvePoint[];
  const box: CurveBox = { width: Math.max(40, width - 2 * INSET), height: (wide ? WIDE_HEIGHT : HEIGHT) - 2 * INSET };
  const drag = useRef<{ points: CurvePoint[]; index: number; added: boolean } | null>(null);

  useDrag(ref, {
    onStart: ({ x, y }) => {
      let index = nearestPoint(points, x, y, box, GRAB);
      let list = points;
      if (index < 0) {
        const added = addPoint(points, x, box);
        if (!added) return false;
        ({ points: list, index } = added);
        setParams(id, { [which]: list }, true);
      }
      drag.current = { points: list, index, added: list !== points };
      setHeld(index);
      return true;
    },
    onMove: ({ x, y }) => {
      const d = drag.current;
      if (!d) return;
      const outside = x < -OUT || y < -OUT || x > box.width + OUT || y > box.height + OUT;
      const next = outside ? removePoint(d.points, d.index) : movePoint(d.points, d.index, x, y, box);
      setParams(id, { [which]: next }, true);
    },
    onEnd: (_p, moved) => {
      const d = drag.current;
      // A tap on an existing point opens its numbers.
      if (d && !moved && !d.added) setTyped(d.index);
      drag.current = null;
      setHeld(null);
      settle();
    },
  });

  const shown = held !== null ? points[held] : undefined;
  return (
    <View className="gap-1 px-2" testID="curve-editor">
      <Choice compact label="Curve" value={which} options={CURVES} onChange={setWhich} />
      <View
        onLayout={(e) => setWidth(e.nativeEvent.layout.width)}
        style={{ height: box.height + 2 * INSET }}
        className="bg-scope"
      >
        <div
          ref={ref}
          role="application"
          aria-label={`Curve, ${which}: tap the line to add a point, drag to move it, tap it to type, pull it out to remove it`}
          style={{ position: 'absolute', inset: INSET, cursor: 'crosshair' }}
        >
          <Svg width={box.width} height={box.height} style={{ overflow: 'visible' }} aria-hidden>
            {[0.25, 0.5, 0.75].map((v) => (
              <Line key={v} x1={v * box.width} x2={v * box.width} y1={0} y2={box.height} stroke="#4a4a4a" />
            ))}
            {[0.25, 0.5, 0.75].map((v) => (
              <Line key={v} x1={0} x2={box.width} y1={v * box.height} y2={v * box.height} stroke="#4a4a4a" />
            ))}
            <Line x1={0} y1={box.height} x2={box.width} y2={0} stroke="#6c6c6c" strokeDasharray="3 5" />
            <Path d={pathOf(curveOf(points), box)} stroke={INKS[which]} strokeWidth={2} fill="none" />
            {points.map((p, i) => (
              <Circle
                key={i}
                cx={p.x * box.width}
                cy={(1 - p.y) * box.height}
                r={i === held ? 9 : 7}
                fill={i === held ? '#d7f75b' : '#101010'}
                stroke={INKS[which]}
                strokeWidth={2}
              />
            ))}
          </Svg>
        </div>
        {shown ? (
          <Txt bold ink="text-on-accent" className="pointer-events-none absolute right-1 top-1 rounded bg-accent px-2">
            {(shown.x * 100).toFixed(1)} → {(shown.y * 100).toFixed(1)} %
          </Txt>
        ) : null}
      </View>
      {typed !== null && points[typed] ? (
        <PointSheet
          points={points}
          index={typed}
          onChange={(next, live) => setParams(id, { [which]: next }, live)}
          onSettle={settle}
          onClose={() => setTyped(null)}
        />
      ) : null}
    </View>
  );
}

const AXES = [
  { key: 'x', label: 'In' },
  { key: 'y', label: 'Out' },
] as const;

/** The numbers of a point, with ruler or keypad, and a button to remove it. */
function PointSheet({
  points,
  index,
  onChange,
  onSettle,
  onClose,
}: {
  points: CurvePoint[];
  index: number;
  onChange(points: CurvePoint[], live: boolean): void;
  onSettle(): void;
  onClose(): void;
}) {
  return (
    <Sheet title={`Point ${index + 1} of ${points.length}`} onClose={onClose}>
      {AXES.map(({ key, label }) => (
        <Ruler
          key={key}
          spec={{ key, label, unit: 'percent', min: 0, max: 1, neutral: points[index].x, step: 0.005 }}
          value={points[index][key]}
          onChange={(v, live) => onChange(placePoint(points, index, { ...points[index], [key]: v }), live)}
          onSettle={onSettle}
        />
      ))}
      <Button
        title="Take this point away"
        icon={Trash}
        disabled={points.length <= 2}
        onPress={() => {
          onChange(removePoint(points, index), false);
          onClose();
        }}
      />
    </Sheet>
  );
}
