import { useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import Svg, { Circle, G, Line, Rect, Text as SvgText } from 'react-native-svg';
import { SKIN_ANGLE } from '@inkavo/core/steps/saturation';
import type { Mark } from '@inkavo/core/scopes/readings';
import { barTargets, FULL_CHROMA, GUIDE, PAD_REACH, padPoint, type Chroma } from '@inkavo/core/scopes/vectorscope';
import { useEngine } from '../engine/context';
import { useScope } from '../engine/scope';
import { useBench } from '../state/bench';
import { chooseByKey } from '../ui/roving';
import { Txt } from '../ui/Txt';
import { useDrag } from '../ui/useDrag';
import { ChannelNumbers } from './ChannelNumbers';
import { MarkIcon } from './marks';
import { rimStep, saturationAt } from './rim';
import { TraceCanvas } from './TraceCanvas';

const MARKS = ['shadows', 'midtones', 'highlights', 'overall'] as const satisfies Mark[];
const NAMES: Record<Mark, string> = {
  shadows: 'Shadows',
  midtones: 'Midtones',
  highlights: 'Highlights',
  overall: 'Overall',
};
const ZOOMS = [1, 1.5, 3, 6];
/** Hit radius in pixels of a mark, and of the rim. */
const GRAB = 30;
const RIM = 16;
const FINE = 0.2;
const KEY_STEP = 0.0025;

/** Position of a target's name: above it, but within the pad's edges. */
function besideTarget(x: number, y: number, size: number) {
  const room = 30;
  const at = y < 22 ? y + 18 : y - 9;
  if (x < room) return { x: x - 6, y: at, textAnchor: 'start' } as const;
  return x > size - room
    ? ({ x: x + 6, y: at, textAnchor: 'end' } as const)
    : ({ x, y: at, textAnchor: 'middle' } as const);
}
const TARGETS = barTargets();

/** Height in pixels below which three tools do not fit below one another. */
const LOW = 150;

/**
 * The vectorscope with the four marks: dragging one changes the colour of a part of the tonal range, and the trace with
 * it. The ring marks the strong colours; dragging it changes the saturation of the mark in hand.
 */
export function Pad({ size, below }: { size: number; below?: boolean }) {
  const ref = useRef<HTMLDivElement>(null);
  const engine = useEngine();
  const scope = useScope();
  const playing = useBench((s) => s.playing);
  const zoom = useBench((s) => s.padZoom);
  const mark = useBench((s) => s.mark);
  const { set } = useBench.getState();
  const [fine, setFine] = useState(false);
  const [targets, setTargets] = useState(false);
  const [held, setHeld] = useState<'mark' | 'rim' | null>(null);
  const drag = useRef<{ from: Chroma; rim?: { step: string; key: string; from: number; radius: number } } | null>(null);

  const marks = scope && !playing ? scope.marks : null;
  const place = (c: Chroma): { x: number; y: number } => {
    const { x, y } = padPoint(c, zoom);
    return { x: x * size, y: y * size };
  };
  const perPixel = (2 * PAD_REACH) / zoom / size;
  const rimRadius = scope ? (scope.statistics.chroma.high * FULL_CHROMA) / perPixel : 0;
  const middle = size / 2;

  useDrag(ref, {
    onStart: ({ x, y, shift }) => {
      if (!marks) return false;
      const distances = MARKS.map((m) => Math.hypot(place(marks[m]).x - x, place(marks[m]).y - y));
      const near = distances.map((d, i) => (MARKS[i] === mark ? d - 6 : d));
      const i = near.indexOf(Math.min(...near));
      const radius = Math.hypot(x - middle, y - middle);
      if (distances[i] > GRAB && Math.abs(radius - rimRadius) < RIM) {
        const rim = rimStep(mark);
        drag.current = { from: marks[mark], rim: { ...rim, radius } };
        setHeld('rim');
        return true;
      }
      // Away from all marks a drag moves the one in hand, so that the finger need not cover it.
      const chosen = distances[i] <= GRAB ? MARKS[i] : mark;
      set({ mark: chosen });
      drag.current = { from: marks[chosen] };
      setHeld('mark');
      engine.current?.grabber.takeMark(chosen);
      return shift ? undefined : true;
    },
    onMove: ({ x, y, dx, dy, shift }) => {
      const d = drag.current;
      if (!d) return;
      if (d.rim) {
        const radius = Math.hypot(x - middle, y - middle);
        return useBench
          .getState()
          .setParams(d.rim.step, { [d.rim.key]: saturationAt(d.rim.from, radius / d.rim.radius) }, true);
      }
      const k = perPixel * (fine || shift ? FINE : 1);
      engine.current?.grabber.moveTo({ cb: d.from.cb + dx * k, cr: d.from.cr - dy * k });
    },
    onEnd: () => {
      const rim = drag.current?.rim;
      drag.current = null;
      setHeld(null);
      if (rim) useBench.getState().settle();
      else void engine.current?.grabber.letGo();
    },
    onWheel: (steps) => set({ padZoom: ZOOMS[Math.min(3, Math.max(0, ZOOMS.indexOf(zoom) + steps))] }),
  });

  const byKey = (m: Mark) => (e: { key: string; shiftKey: boolean; preventDefault(): void }) => {
    const by = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (!by || !marks) return;
    e.preventDefault();
    set({ mark: m });
    const k = KEY_STEP * (e.shiftKey ? FINE : 1);
    engine.current?.grabber.takeMark(m);
    engine.current?.grabber.moveTo({ cb: marks[m].cb + by[0] * k, cr: marks[m].cr + by[1] * k });
    void engine.current?.grabber.letGo();
  };

  const skin = { x: middle + Math.cos(SKIN_ANGLE) * size, y: middle - Math.sin(SKIN_ANGLE) * size };
  const guide = (GUIDE * FULL_CHROMA) / perPixel;
  const square = (
    <View style={{ width: size, height: size }} className="overflow-hidden bg-scope">
      <div
        ref={ref}
        data-testid="pad"
        role="application"
        tabIndex={0}
        aria-label={`Pad: arrows or a drag move the mark in hand, ${NAMES[mark].toLowerCase()}; the ring changes its saturation`}
        onKeyDown={byKey(mark)}
        style={{ position: 'absolute', inset: 0, cursor: 'move' }}
      >
        <View className="absolute inset-0" style={{ opacity: playing ? 0.4 : 1 }}>
          <TraceCanvas trace="pad" />
        </View>
        <Svg width={size} height={size} style={{ position: 'absolute' }} aria-hidden>
          <Line x1={0} x2={size} y1={middle} y2={middle} stroke="#4a4a4a" />
          <Line x1={middle} x2={middle} y1={0} y2={size} stroke="#4a4a4a" />
          <Line x1={middle} y1={middle} x2={skin.x} y2={skin.y} stroke="#9a9a9a" />
          <Circle
            cx={middle}
            cy={middle}
            r={guide}
            fill="none"
            stroke="#d7f75b"
            strokeWidth={1}
            strokeDasharray="3 5"
          />
          {targets
            ? TARGETS.map((t) => {
                const { x, y } = place(t);
                return (
                  <G key={t.name}>
                    <Rect x={x - 6} y={y - 6} width={12} height={12} fill="none" stroke="#e8e8e8" />
                    <SvgText {...besideTarget(x, y, size)} fill="#e8e8e8" fontSize={12}>
                      {t.name}
                    </SvgText>
                  </G>
                );
              })
            : null}
          {marks ? (
            <Circle
              cx={middle}
              cy={middle}
              r={rimRadius}
              fill="none"
              stroke={held === 'rim' ? '#d7f75b' : '#e8e8e8'}
              strokeWidth={held === 'rim' ? 3 : 1.5}
            />
          ) : null}
        </Svg>
        {marks
          ? MARKS.map((m) => {
              const { x, y } = place(marks[m]);
              const on = m === mark;
              const half = on ? 13 : 10;
              return (
                <div
                  key={m}
                  aria-hidden
                  data-cb={(marks[m].cb * 200).toFixed(1)}
                  data-cr={(marks[m].cr * 200).toFixed(1)}
                  data-testid={`mark-${m}`}
                  style={{
                    position: 'absolute',
                    left: Math.min(size - half, Math.max(half, x)) - half,
                    top: Math.min(size - half, Math.max(half, y)) - half,
                    width: 2 * half,
                    height: 2 * half,
                    display: 'flex',
                    alignItems: 'center',
                    justifyContent: 'center',
                    background: '#101010b0',
                    borderRadius: half,
                    zIndex: on ? 2 : 1,
                  }}
                >
                  <MarkIcon mark={m} colour={on ? '#d7f75b' : '#ffffff'} size={on ? 18 : 14} />
                </div>
              );
            })
          : null}
      </div>
    </View>
  );

  const chooser = (
    <View role="radiogroup" aria-label="Mark in hand" className={below ? 'flex-1 flex-row' : 'flex-row flex-wrap'}>
      {MARKS.map((m) => (
        <Tool
          key={m}
          on={m === mark}
          label={NAMES[m]}
          radio
          onPress={() => set({ mark: m })}
          onKeyDown={(e) => chooseByKey(e, MARKS, MARKS.indexOf(m), (next) => set({ mark: next }))}
        >
          <MarkIcon mark={m} colour={m === mark ? 'var(--on-accent)' : 'var(--ink)'} />
        </Tool>
      ))}
    </View>
  );
  const tools = (
    <>
      <Tool
        label={`Zoom: ${zoom} times`}
        onPress={() => set({ padZoom: ZOOMS[(ZOOMS.indexOf(zoom) + 1) % ZOOMS.length] })}
      >
        <Txt>×{zoom}</Txt>
      </Tool>
      <Tool label="Fine" on={fine} onPress={() => setFine(!fine)}>
        <Txt ink={fine ? 'text-on-accent' : 'text-ink'}>fine</Txt>
      </Tool>
      <Tool label="Targets of the standard bars" on={targets} onPress={() => setTargets(!targets)}>
        <Txt ink={targets ? 'text-on-accent' : 'text-ink'}>bars</Txt>
      </Tool>
    </>
  );
  // A tall tray leaves little height: tools are arranged in a row, and numbers appear in the line above.
  const low = size < LOW;
  if (below)
    return (
      <View className="bg-ground">
        <View className="items-center bg-scope">{square}</View>
        <View className="flex-row gap-[2px] px-1 pt-1">
          {chooser}
          {tools}
        </View>
        <View className="px-3 py-1">
          <ChannelNumbers mark={mark} />
        </View>
      </View>
    );
  return (
    <View className="h-full flex-row bg-ground">
      <View className="min-w-0 flex-1 items-center justify-between py-1">
        <View className="w-[88px]">{chooser}</View>
        {low ? null : <ChannelNumbers mark={mark} column />}
      </View>
      {square}
      <View className="min-w-0 flex-1 items-center pt-1">
        <View className={`gap-[2px] ${low ? 'w-[98px] flex-row flex-wrap' : 'items-center'}`}>{tools}</View>
      </View>
    </View>
  );
}

function Tool({
  label,
  on,
  radio,
  onPress,
  onKeyDown,
  children,
}: {
  label: string;
  on?: boolean;
  radio?: boolean;
  onPress(): void;
  onKeyDown?(event: KeyboardEvent): void;
  children: ReactNode;
}) {
  return (
    <Pressable
      role={radio ? 'radio' : 'button'}
      aria-label={label}
      aria-checked={radio ? Boolean(on) : undefined}
      aria-pressed={radio ? undefined : on}
      tabIndex={radio && !on ? -1 : 0}
      onPress={onPress}
      {...{ onKeyDown }}
      className={`h-[44px] min-w-[44px] items-center justify-center rounded border-stroke border-edge px-1 ${on ? 'bg-accent' : 'bg-surface'}`}
    >
      {children}
    </Pressable>
  );
}
