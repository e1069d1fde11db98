import { useRef, useState } from 'react';
import { Pressable, View } from 'react-native';
import Svg, { Line } from 'react-native-svg';
import { formatNumber } from '@inkavo/core/steps/numbers';
import type { NumberSpec } from '@inkavo/core/steps';
import { useHand } from '../state/hand';
import { Txt } from '../ui/Txt';
import { useDrag } from '../ui/useDrag';
import { Keypad } from './Keypad';
import { useInGroup, useRulerStop } from './RulerGroup';
import { dragValue, nudge, scaleOf, tickPositions } from './rulerScale';
import { Minus, Plus } from '../ui/icons';

interface Props {
  spec: NumberSpec;
  value: number;
  /** `live` during a drag. */
  onChange(value: number, live: boolean): void;
  onSettle(): void;
}

const TICKS_HEIGHT = 22;
/** Distance in pixels from the end of the ruler within which a tap resets a changed number. */
const DOT_REACH = 44;
/** Nudges per press of the page keys. */
const PAGES = { PageUp: 10, PageDown: -10 };

/**
 * The control for a number: a scale that slides under a fixed pointer. Drags become finer with the distance from the
 * row. A tap opens the keypad, − and + nudge, the dot resets.
 */
export function Ruler({ spec, value, onChange, onSettle }: Props) {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const [typing, setTyping] = useState(false);
  const last = useRef({ dx: 0, value });
  const dragged = useRef(false);
  const set = (next: number, live = false): void => onChange(next, live);
  const stop = useRulerStop(spec.key);
  const inGroup = useInGroup();
  const right = useHand((s) => s.hand === 'right');
  const changed = value !== spec.neutral;
  const text = formatNumber(spec, value);

  useDrag(ref, {
    onStart: () => {
      last.current = { dx: 0, value };
      dragged.current = false;
    },
    onMove: ({ dx, dy, shift }) => {
      const next = dragValue(spec, last.current.value, dx - last.current.dx, Math.abs(dy), shift);
      last.current = { dx, value: next };
      set(next, true);
    },
    // A drag may begin on the dot, too; a tap there resets.
    onEnd: ({ x, width: all }, moved) => {
      dragged.current = moved;
      if (moved) onSettle();
      else if (changed && (right ? x : all - x) < DOT_REACH) set(spec.neutral);
      else setTyping(true);
    },
    onWheel: (steps, fine) => set(nudge(spec, value, steps, fine)),
  });

  const onKeyDown = (e: { key: string; shiftKey: boolean; preventDefault(): void }): void => {
    const steps = { ArrowRight: 1, ArrowLeft: -1, ...(inGroup ? {} : { ArrowUp: 1, ArrowDown: -1 }), ...PAGES }[e.key];
    if (steps) set(nudge(spec, value, steps, e.shiftKey));
    else if (e.key === 'Enter') setTyping(true);
    else if (e.key === 'Delete' || e.key === 'Backspace') set(spec.neutral);
    else return;
    e.preventDefault();
  };

  return (
    <View className="h-[48px] flex-row items-stretch">
      <Nudge label={`${spec.label}: less`} icon={Minus} onPress={() => set(nudge(spec, value, -1, false))} />
      <div ref={ref} className="ruler" style={{ position: 'relative', flex: 1, minWidth: 0 }}>
        <div
          role="slider"
          {...stop}
          aria-label={spec.label}
          aria-valuemin={spec.min}
          aria-valuemax={spec.max}
          aria-valuenow={value}
          aria-valuetext={text}
          onKeyDown={onKeyDown}
          style={{
            height: '100%',
            cursor: 'ew-resize',
            display: 'flex',
            flexDirection: 'column',
            justifyContent: 'space-between',
          }}
        >
          <View
            className="h-[22px] items-center justify-between"
            style={{
              flexDirection: right ? 'row' : 'row-reverse',
              [right ? 'paddingLeft' : 'paddingRight']: changed ? 20 : 0,
            }}
          >
            <Txt numberOfLines={1} className="shrink">
              {spec.label}
            </Txt>
            <Txt bold testID={`value-${spec.key}`} numberOfLines={1} className="shrink-0">
              {text}
            </Txt>
          </View>
          <View className="h-[26px] pb-[4px]" onLayout={(e) => setWidth(e.nativeEvent.layout.width)} aria-hidden>
            <Ticks spec={spec} value={value} width={width} changed={changed} />
          </View>
        </div>
        {changed ? (
          <Pressable
            role="button"
            tabIndex={-1}
            aria-label={`${spec.label}: reset`}
            // A press without a pointer, from assistive technology.
            onPress={() => dragged.current || set(spec.neutral)}
            className={`absolute inset-y-0 w-[44px] pt-[6px] ${right ? 'left-0 items-start' : 'right-0 items-end'}`}
          >
            <View className="h-[11px] w-[11px] rounded-full border border-ink bg-accent" />
          </Pressable>
        ) : null}
      </div>
      <Nudge label={`${spec.label}: more`} icon={Plus} onPress={() => set(nudge(spec, value, 1, false))} />
      {typing ? (
        <Keypad
          spec={spec}
          value={value}
          onClose={() => setTyping(false)}
          onSet={(next) => {
            set(next);
            setTyping(false);
          }}
        />
      ) : null}
    </View>
  );
}

function Nudge({ label, icon: Icon, onPress }: { label: string; icon: typeof Minus; onPress: () => void }) {
  return (
    <Pressable
      role="button"
      // The keyboard uses the ruler's arrow keys.
      tabIndex={-1}
      aria-label={label}
      onPress={onPress}
      className="w-[44px] items-center justify-center active:opacity-50"
    >
      <Icon size={18} color="var(--ink)" aria-hidden />
    </Pressable>
  );
}

function Ticks({ spec, value, width, changed }: { spec: NumberSpec; value: number; width: number; changed: boolean }) {
  if (width < 2) return null;
  const middle = width / 2;
  const neutral = middle + (spec.neutral - value) * scaleOf(spec).pixelsPerUnit;
  return (
    <Svg width={width} height={TICKS_HEIGHT}>
      {tickPositions(spec, value, width).map(({ x, strong }) => (
        <Line
          key={x}
          x1={x}
          x2={x}
          y1={strong ? 5 : 11}
          y2={TICKS_HEIGHT}
          stroke={strong ? 'var(--quiet)' : 'var(--line)'}
          strokeWidth={strong ? 1.5 : 1}
        />
      ))}
      {changed ? (
        <Line
          x1={middle}
          x2={Math.min(width, Math.max(0, neutral))}
          y1={TICKS_HEIGHT - 1.5}
          y2={TICKS_HEIGHT - 1.5}
          stroke="var(--in-hand)"
          strokeWidth={3}
        />
      ) : null}
      <Line
        x1={middle}
        x2={middle}
        y1={0}
        y2={TICKS_HEIGHT}
        stroke={changed ? 'var(--in-hand)' : 'var(--ink)'}
        strokeWidth={3}
      />
    </Svg>
  );
}
