import { useRef, useState } from 'react';
import { View } from 'react-native';
import type { Grab } from '@inkavo/core/scopes/solver';
import { EDGE_NUMBERS } from '@inkavo/core/steps/bands';
import { useEngine } from '../engine/context';
import { currentEdges } from '../engine/grabber';
import { useScope } from '../engine/scope';
import { useBench } from '../state/bench';
import { useHand } from '../state/hand';
import { Txt } from '../ui/Txt';
import { useDrag, type DragPoint } from '../ui/useDrag';
import { Handle } from './Handle';
import { TraceCanvas } from './TraceCanvas';
import {
  edgeParts,
  handleTops,
  heightOf,
  lanesOf,
  levelOfPixels,
  nearest,
  overallPart,
  type Lane,
  type Part,
} from './waveformParts';

const HANDLE_HEIGHT = 30;
const HANDLE_WIDTH = { luma: 44, parade: 30 } as const;
/** Space beside the handles for the grips of the band edges. */
const GRIP = 30;
const LINES = [1, 0.75, 0.5, 0.25, 0];
/** Change of level per press of an arrow key. */
const KEY_STEP = 0.005;

const isEdge = (id: Part['id']): id is 'lowEdge' | 'highEdge' => id === 'lowEdge' || id === 'highEdge';

/**
 * Luma waveform, or RGB parade: as wide as the picture, column by column. The trace is dragged near its bottom, middle
 * or top, or by a handle; swiping sideways changes the view.
 */
export function Waveform({
  view,
  width,
  height,
  onSwipe,
}: {
  view: 'luma' | 'parade';
  width: number;
  height: number;
  onSwipe(by: 1 | -1): void;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const engine = useEngine();
  const scope = useScope();
  const playing = useBench((s) => s.playing);
  const levels = useBench((s) => s.group === 'Levels');
  const inHand = useBench((s) => s.inHand);
  const right = useHand((s) => s.hand === 'right');
  const [held, setHeld] = useState<Part['id'] | null>(null);
  const drag = useRef<{ part: Part; sideways?: boolean; edge: number } | null>(null);

  const handle = HANDLE_WIDTH[view];
  const grabbable = scope !== null && !playing;
  const lanes = grabbable ? lanesOf(scope, view, levels) : [];
  const overall = grabbable && view === 'luma' && !levels ? overallPart(scope) : undefined;
  const edges = grabbable && view === 'luma' ? edgeParts(scope) : [];
  const overallTop = overall ? handleTops([overall.level], height, HANDLE_HEIGHT)[0] : 0;
  const gripLeft = right ? width - handle - GRIP : handle;
  const handleLeft = (lane: Lane): number => (right ? (lane.left + lane.width) * width - handle : lane.left * width);

  const partAt = ({ x, y }: DragPoint): Part | undefined => {
    const onGrip = x >= gripLeft - 8 && x <= gripLeft + GRIP + 8;
    const edge = onGrip ? edges.find((e) => Math.abs(heightOf(e.level, height) - y) < 16) : undefined;
    if (edge) return edge;
    const farSide = right ? x < handle : x > width - handle;
    if (overall && farSide && Math.abs(overallTop + HANDLE_HEIGHT / 2 - y) < 24) return overall;
    const lane = lanes.find((l) => x <= (l.left + l.width) * width) ?? lanes.at(-1);
    if (!lane) return undefined;
    const from = handleLeft(lane);
    const onHandle = x >= from && x <= from + handle;
    const tops = handleTops(
      lane.parts.map((p) => p.level),
      height,
      HANDLE_HEIGHT,
    );
    const places = lane.parts.map((p, i) => (onHandle ? tops[i] + HANDLE_HEIGHT / 2 : heightOf(p.level, height)));
    return lane.parts[nearest(places, y)];
  };

  const edgeNow = (id: 'lowEdge' | 'highEdge'): number => {
    const { low, high } = currentEdges();
    return id === 'lowEdge' ? low : high;
  };
  const moveEdge = (id: 'lowEdge' | 'highEdge', to: number): void => {
    const { min, max } = EDGE_NUMBERS.find((n) => n.key === id)!;
    if (inHand) useBench.getState().setParams(inHand, { [id]: Math.min(max, Math.max(min, to)) }, true);
  };

  useDrag(ref, {
    onStart: (p) => {
      const part = partAt(p);
      drag.current = part ? { part, edge: isEdge(part.id) ? edgeNow(part.id) : 0 } : null;
    },
    onMove: ({ dx, dy }) => {
      const d = drag.current;
      if (!d) return;
      if (d.sideways === undefined) {
        d.sideways = Math.abs(dx) > Math.abs(dy) * 1.5 || !grabbable;
        if (!d.sideways) {
          setHeld(d.part.id);
          if (!isEdge(d.part.id)) engine.current?.grabber.take(d.part.id as Grab);
        }
      }
      if (d.sideways) return;
      const by = -levelOfPixels(dy, height);
      if (isEdge(d.part.id)) moveEdge(d.part.id, d.edge + by);
      else engine.current?.grabber.moveTo(d.part.level + by);
    },
    onEnd: ({ dx }, moved) => {
      const d = drag.current;
      drag.current = null;
      setHeld(null);
      if (!moved) return;
      if (!d || d.sideways) {
        if (Math.abs(dx) > 40) onSwipe(dx < 0 ? 1 : -1);
      } else if (isEdge(d.part.id)) useBench.getState().settle();
      else void engine.current?.grabber.letGo();
    },
  });

  const onKey = (part: Part) => (e: { key: string; shiftKey: boolean; preventDefault(): void }) => {
    const steps = { ArrowUp: 1, ArrowDown: -1 }[e.key];
    if (!steps) return;
    e.preventDefault();
    const by = steps * KEY_STEP * (e.shiftKey ? 0.2 : 1);
    if (isEdge(part.id)) {
      moveEdge(part.id, edgeNow(part.id) + by);
      return useBench.getState().settle();
    }
    engine.current?.grabber.take(part.id as Grab);
    engine.current?.grabber.moveTo(part.level + by);
    void engine.current?.grabber.letGo();
  };

  const all = [...lanes.flatMap((l) => l.parts), ...(overall ? [overall] : []), ...edges];
  const heldPart = all.find((p) => p.id === held);
  return (
    <div
      ref={ref}
      data-testid="waveform"
      style={{ position: 'absolute', inset: 0, cursor: grabbable ? 'ns-resize' : 'default' }}
    >
      <View className="absolute inset-0" style={{ opacity: playing ? 0.4 : 1 }}>
        <TraceCanvas trace="main" testID="trace" />
      </View>
      {LINES.map((v) => (
        <View
          key={v}
          className="absolute left-0 right-0"
          style={{ top: heightOf(v, height), height: 1, backgroundColor: v === 0 || v === 1 ? '#d0d0d0' : '#4a4a4a' }}
        />
      ))}
      {[1, 0.5, 0].map((v) => (
        <Txt
          key={v}
          size="sm"
          ink="text-scope-ink"
          className="absolute bg-scope px-[2px]"
          style={{
            [right ? 'left' : 'right']: overall ? handle + 5 : 5,
            top: Math.min(height - 17, Math.max(0, heightOf(v, height) + (v === 0 ? -17 : 1))),
          }}
        >
          {v * 100}
        </Txt>
      ))}
      {edges.map((edge) => (
        <View
          key={edge.id}
          className="pointer-events-none absolute left-0 right-0"
          style={{ top: heightOf(edge.level, height) }}
        >
          <View
            style={{ borderTopWidth: 1, borderStyle: 'dashed', borderColor: held === edge.id ? '#d7f75b' : '#c8c8c8' }}
          />
        </View>
      ))}
      {edges.map((edge) => (
        <Handle
          key={edge.id}
          part={edge}
          held={held === edge.id}
          left={gripLeft + 6}
          top={heightOf(edge.level, height) - 9}
          width={18}
          height={18}
          side={right ? 'left' : 'right'}
          onKey={onKey(edge)}
        />
      ))}
      {overall ? (
        <Handle
          part={overall}
          held={held === overall.id}
          left={right ? 0 : width - handle}
          top={overallTop}
          width={handle}
          height={HANDLE_HEIGHT}
          side={right ? 'right' : 'left'}
          onKey={onKey(overall)}
        />
      ) : null}
      {lanes.map((lane) => {
        const tops = handleTops(
          lane.parts.map((p) => p.level),
          height,
          HANDLE_HEIGHT,
        );
        return lane.parts.map((part, i) => (
          <View key={part.id} className="contents">
            <View
              className="pointer-events-none absolute"
              style={{
                left: right ? handleLeft(lane) - 12 : handleLeft(lane),
                top: heightOf(part.level, height) - 1,
                height: 2,
                width: handle + 12,
                backgroundColor: held === part.id ? '#d7f75b' : '#ffffff',
              }}
              aria-hidden
            />
            <Handle
              part={part}
              held={held === part.id}
              left={handleLeft(lane)}
              top={tops[i]}
              width={handle}
              height={HANDLE_HEIGHT}
              side={right ? 'left' : 'right'}
              onKey={onKey(part)}
            />
          </View>
        ));
      })}
      {heldPart ? (
        <View className="pointer-events-none absolute bottom-[4px] left-[44px] right-[60px] items-center">
          <Txt bold ink="text-on-accent" className="rounded bg-accent px-2">
            {`${heldPart.label} at ${(heldPart.level * 100).toFixed(1)} %`}
          </Txt>
        </View>
      ) : null}
    </div>
  );
}
