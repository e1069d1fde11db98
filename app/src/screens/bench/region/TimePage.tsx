import { View } from 'react-native';
import Svg, { Line, Path } from 'react-native-svg';
import { clipSeconds, fps } from '@inkavo/core/model/facts';
import type { Region } from '@inkavo/core/regions/region';
import { poseAt, poseKeyAt, withPose, type Shape } from '@inkavo/core/regions/shape';
import { useBench } from '../../../state/bench';
import { goTo } from '../../../state/playhead';
import { useRegionTool } from '../../../state/regions';
import { IconButton } from '../../../ui/Button';
import { Choice } from '../../../ui/Choice';
import { ArrowLeft, ArrowRight, Diamond } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';
import { Txt } from '../../../ui/Txt';
import { Follow } from './Follow';
import { changeShape, shapeInHand, usePlayheadSeconds } from './inHand';

const LANE = 44;

/** Motion of the shape in hand: keys that hold its whole pose, and the interpolation between them. */
export function TimePage({ region }: { region: Region }) {
  const chosen = useRegionTool((s) => s.shape);
  const seconds = usePlayheadSeconds();
  const facts = useBench((s) => s.opened?.clip.facts);
  const shape = shapeInHand(region, chosen);
  if (!shape || !facts)
    return (
      <Txt quiet className="px-3 py-2">
        Keys move shapes. This region has none.
      </Txt>
    );
  const keyed = shape.keys.length > 1;
  const here = keyed ? poseKeyAt(shape, seconds) : undefined;
  const go = (to: number): void => goTo(Math.round(to * fps(facts)));
  const before = shape.keys.findLast((k) => k.seconds < seconds - 0.004);
  const after = shape.keys.find((k) => k.seconds > seconds + 0.004);
  const setKey = (): void => changeShape(shape.id, (s) => keyHere(s, seconds, here !== undefined));
  return (
    <>
      <View className="h-[48px] flex-row items-center gap-2 px-2">
        <Tool
          label={here ? 'Take the key here away' : 'Key here'}
          short={here ? 'Key' : 'Key here'}
          icon={Diamond}
          on={here !== undefined}
          onPress={setKey}
        />
        <IconButton
          label="Key before"
          icon={ArrowLeft}
          disabled={!keyed || !before}
          onPress={() => go(before!.seconds)}
        />
        <IconButton label="Next key" icon={ArrowRight} disabled={!keyed || !after} onPress={() => go(after!.seconds)} />
        {keyed ? (
          <View className="flex-1">
            <Choice
              label="From key to key"
              value={shape.keys[0].ease}
              options={[
                { value: 'linear', title: 'evenly' },
                { value: 'smooth', title: 'smoothly' },
              ]}
              onChange={(ease) => changeShape(shape.id, (s) => ({ ...s, keys: s.keys.map((k) => ({ ...k, ease })) }))}
            />
          </View>
        ) : (
          <Txt size="sm" quiet className="flex-1" numberOfLines={2}>
            It stays where it is. A key later in the clip lets it move.
          </Txt>
        )}
      </View>
      <Follow shape={shape} />
      {keyed ? <Lane shape={shape} seconds={seconds} length={clipSeconds(facts)} onGo={go} /> : null}
    </>
  );
}

/** Adds or removes a key at the playhead. A static shape starts to move with its first one. */
function keyHere(shape: Shape, seconds: number, there: boolean): Shape {
  if (there && shape.keys.length > 1) {
    const here = poseKeyAt(shape, seconds);
    return { ...shape, keys: shape.keys.filter((k) => k !== here) };
  }
  if (shape.keys.length > 1) return withPose(shape, seconds, poseAt(shape, seconds), true);
  // The current pose becomes a key at the clip's beginning, and another one here.
  const [only] = shape.keys;
  const first = { ...only, seconds: 0 };
  return seconds < 0.004 ? { ...shape, keys: [first] } : { ...shape, keys: [first, { ...only, seconds }] };
}

/** The keys along the clip; a tap goes to the nearest. */
function Lane({
  shape,
  seconds,
  length,
  onGo,
}: {
  shape: Shape;
  seconds: number;
  length: number;
  onGo(to: number): void;
}) {
  const x = (at: number): number => 2 + (96 * at) / Math.max(length, 1e-6);
  return (
    <div
      role="img"
      aria-label={`Keys at ${shape.keys.map((k) => `${k.seconds.toFixed(2)} s`).join(', ')}`}
      style={{ height: LANE, cursor: 'pointer' }}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        const at = (((e.clientX - box.left) / box.width) * 100 - 2) / 96;
        const near = shape.keys.reduce((a, b) =>
          Math.abs(b.seconds / length - at) < Math.abs(a.seconds / length - at) ? b : a,
        );
        onGo(near.seconds);
      }}
    >
      <Svg width="100%" height={LANE} aria-hidden>
        <Line x1="2%" x2="98%" y1={LANE / 2} y2={LANE / 2} stroke="var(--line)" strokeWidth={2} />
        <Line x1={`${x(seconds)}%`} x2={`${x(seconds)}%`} y1={4} y2={LANE - 4} stroke="var(--accent)" strokeWidth={2} />
      </Svg>
      <div style={{ position: 'relative', height: 0 }}>
        {shape.keys.map((k) => (
          <div
            key={k.seconds}
            style={{ position: 'absolute', left: `${x(k.seconds)}%`, top: -LANE / 2 - 8, marginLeft: -8 }}
          >
            <Svg width={16} height={16} aria-hidden>
              <Path d="M8,0L16,8L8,16L0,8Z" fill="var(--ink)" stroke="var(--ground)" strokeWidth={1.5} />
            </Svg>
          </div>
        ))}
      </div>
    </div>
  );
}
