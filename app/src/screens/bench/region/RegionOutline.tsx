import type { KeyboardEvent } from 'react';
import { View } from 'react-native';
import Svg, { Circle, Line, Path } from 'react-native-svg';
import { poseAt } from '@inkavo/core/regions/shape';
import { useBench } from '../../../state/bench';
import { regionOf, useRegionTool } from '../../../state/regions';
import { Txt } from '../../../ui/Txt';
import { useHandInUse } from './drag';
import { handsOf, handText, moved, outlinePath, toPixels, type Hand, type HandName, type Place } from './hands';
import { setPose, shapeInHand, usePlayheadSeconds, useRegionStep } from './inHand';

const NAMES: Record<string, string> = {
  body: 'Place',
  width: 'Width',
  height: 'Height',
  turn: 'Turn',
  feather: 'Softness of the edge',
  size: 'Size',
};
const nameOf = (hand: HandName): string => NAMES[hand] ?? `Point ${Number(hand.slice(6)) + 1}`;

/** Movement of a handle per arrow key, in shares of the frame's width; a tenth with Shift. */
const NUDGE = 0.01;
const ARROWS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
/** Half the size of a handle's hit area on the screen. */
const TARGET = 22;

/** The shapes of the region in hand over the picture, with handles for the current one. */
export function RegionOutline({ width, height, aspect }: { width: number; height: number; aspect: number }) {
  const step = useRegionStep();
  const view = useBench((s) => s.view);
  const seconds = usePlayheadSeconds();
  const { placing, shape: chosen, point } = useRegionTool();
  const inUse = useHandInUse((s) => s.hand);
  if (!placing || !step) return null;
  const region = regionOf(step);
  const held = shapeInHand(region, chosen);
  const place: Place = { view, width, height, aspect };
  const pose = held && poseAt(held, seconds);
  const hands = held && pose ? handsOf(held.kind, pose, place) : [];
  const middle = pose ? toPixels(place, pose.x, pose.y) : ([0, 0] as const);
  const text = held && pose && inUse ? handText(held.kind, pose, inUse) : '';
  return (
    <View className="pointer-events-none absolute inset-0 overflow-hidden" testID="region-outline">
      <Svg width={width} height={height} aria-hidden>
        {region.shapes.map((s) => {
          const d = outlinePath(s.kind, poseAt(s, seconds), place);
          const dash = s.mode === 'add' ? undefined : s.mode === 'subtract' ? '3 5' : '10 4';
          return [
            <Path key={`${s.id} dark`} d={d} stroke="#000000" strokeWidth={s === held ? 4 : 3} fill="none" />,
            <Path
              key={s.id}
              d={d}
              stroke="#ffffff"
              strokeWidth={s === held ? 2 : 1}
              strokeDasharray={dash}
              fill="none"
            />,
          ];
        })}
        {hands
          .filter((h) => h.name === 'turn' || h.name === 'feather' || h.name === 'size')
          .map((h) => (
            <Line
              key={h.name}
              x1={middle[0]}
              y1={middle[1]}
              x2={h.x}
              y2={h.y}
              stroke="#ffffff"
              strokeOpacity={0.5}
              strokeDasharray="2 4"
            />
          ))}
        {hands.map((h) => (
          <HandMark key={h.name} hand={h} strong={h.name === inUse || h.name === `point ${point}`} />
        ))}
      </Svg>
      {held && pose
        ? hands.map((h) => (
            <div
              key={h.name}
              role="slider"
              tabIndex={0}
              aria-label={`${nameOf(h.name)} of the ${held.kind}`}
              aria-valuenow={Math.round((pose.x + pose.y) * 1000)}
              aria-valuetext={handText(held.kind, pose, h.name) || nameOf(h.name)}
              style={{
                position: 'absolute',
                left: h.x - TARGET,
                top: h.y - TARGET,
                width: 2 * TARGET,
                height: 2 * TARGET,
                pointerEvents: 'none',
              }}
              onFocus={() => h.name.startsWith('point') && useRegionTool.setState({ point: Number(h.name.slice(6)) })}
              onKeyDown={(e: KeyboardEvent) => {
                const by = ARROWS[e.key];
                if (!by) return;
                e.preventDefault();
                e.stopPropagation();
                const far = e.shiftKey ? NUDGE / 10 : NUDGE;
                setPose(held.id, moved(held.kind, pose, h.name, by[0] * far, by[1] * far));
              }}
            />
          ))
        : null}
      {text ? (
        <Txt
          bold
          ink="text-white"
          className="absolute right-2 top-2 rounded bg-black/75 px-2 py-1"
          role="status"
          testID="hand-text"
        >
          {text}
        </Txt>
      ) : null}
    </View>
  );
}

/** Body: a ring with a dot. Sizes: a square. Turn: an open ring. Softness: a half-filled ring. Points: dots. */
function HandMark({ hand: { name, x, y }, strong }: { hand: Hand; strong: boolean }) {
  const edge = { stroke: '#000000', strokeWidth: 1.5 };
  const fill = strong ? '#000000' : '#ffffff';
  if (name === 'width' || name === 'height' || name === 'size')
    return <Path d={`M${x - 7},${y - 7}h14v14h-14z`} fill={fill} {...edge} stroke={strong ? '#ffffff' : '#000000'} />;
  if (name === 'turn')
    return (
      <>
        <Circle cx={x} cy={y} r={8} fill="none" stroke="#000000" strokeWidth={5} />
        <Circle cx={x} cy={y} r={8} fill="none" stroke={strong ? '#000000' : '#ffffff'} strokeWidth={2.5} />
      </>
    );
  if (name === 'feather')
    return (
      <>
        <Circle cx={x} cy={y} r={8} fill="#000000" stroke="#ffffff" strokeWidth={2} />
        <Path d={`M${x},${y - 8}a8,8 0 0 1 0,16z`} fill="#ffffff" />
      </>
    );
  if (name === 'body')
    return (
      <>
        <Circle cx={x} cy={y} r={9} fill="none" stroke="#000000" strokeWidth={4} />
        <Circle cx={x} cy={y} r={9} fill="none" stroke="#ffffff" strokeWidth={2} />
        <Circle cx={x} cy={y} r={3} fill="#ffffff" {...edge} />
      </>
    );
  return <Circle cx={x} cy={y} r={strong ? 8 : 6} fill={fill} {...edge} stroke={strong ? '#ffffff' : '#000000'} />;
}
