import { useEffect, useRef, useState } from 'react';
import { Pressable, View } from 'react-native';
import { TRACE_HIGH, TRACE_LOW } from '@inkavo/core/scopes/trace';
import type { Grab } from '@inkavo/core/scopes/solver';
import type { Spread } from '@inkavo/core/scopes/statistics';
import { useEngine } from '../engine/context';
import type { ScopeResult } from '../engine/worker';
import { useBench } from '../state/bench';
import { Txt } from '../ui/Txt';
import { useDrag } from '../ui/useDrag';
import { MarkIcon } from './marks';

/** The parts of the luma trace that can be grabbed, from the top. */
const PARTS = [
  { grab: 'top', level: 'high', mark: 'highlights', label: 'Highlights' },
  { grab: 'middle', level: 'mid', mark: 'midtones', label: 'Midtones' },
  { grab: 'bottom', level: 'low', mark: 'shadows', label: 'Shadows' },
] as const satisfies readonly { grab: Grab; level: keyof Spread; mark: string; label: string }[];

const HANDLE_WIDTH = 44;
const HANDLE_HEIGHT = 30;
const LINES = [1, 0.75, 0.5, 0.25, 0];
/** Level that one press of an arrow key moves. */
const KEY_STEP = 0.005;

const span = TRACE_HIGH - TRACE_LOW;
const heightOf = (value: number, height: number): number => ((TRACE_HIGH - value) / span) * height;

/** Tops of the handles: each beside its level, apart from each other, within the scope. */
function handleTops(levels: number[], height: number): number[] {
  const tops = levels.map((l) => heightOf(l, height) - HANDLE_HEIGHT / 2);
  for (let i = 1; i < tops.length; i += 1) tops[i] = Math.max(tops[i], tops[i - 1] + HANDLE_HEIGHT + 2);
  let limit = height - HANDLE_HEIGHT;
  for (let i = tops.length - 1; i >= 0; i -= 1) {
    tops[i] = Math.max(0, Math.min(tops[i], limit));
    limit = tops[i] - HANDLE_HEIGHT - 2;
  }
  return tops;
}

/** The trace on a canvas, redrawn when a new one comes. */
function TraceCanvas({ scope }: { scope: ScopeResult | null }) {
  const ref = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const canvas = ref.current;
    if (!canvas || !scope) return;
    canvas.width = scope.columns;
    canvas.height = scope.rows;
    canvas.getContext('2d')!.putImageData(new ImageData(scope.pixels, scope.columns, scope.rows), 0, 0);
  }, [scope]);
  return <canvas ref={ref} aria-hidden style={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }} />;
}

/**
 * Luma waveform, or red, green and blue side by side: as wide as the picture, column under column. The luma trace is
 * grabbed near its bottom, middle or top and moved; a swipe to the side changes the view.
 */
export function Waveform({ width, height }: { width: number; height: number }) {
  const ref = useRef<HTMLDivElement>(null);
  const engine = useEngine();
  const scope = useBench((s) => s.scope);
  const view = useBench((s) => s.scopeView);
  const playing = useBench((s) => s.playing);
  const setBench = useBench((s) => s.set);
  const [held, setHeld] = useState<Grab | null>(null);
  const [note, setNote] = useState<string | null>(null);
  const drag = useRef<{ part: (typeof PARTS)[number]; from: number; sideways?: boolean } | null>(null);

  const luma = scope?.statistics.luma;
  const levels = PARTS.map((p) => luma?.[p.level] ?? 0);
  const tops = handleTops(levels, height);
  const grabbable = view === 'luma' && luma !== undefined && !playing;

  const partAt = (x: number, y: number): number => {
    const centres =
      x > width - HANDLE_WIDTH ? tops.map((t) => t + HANDLE_HEIGHT / 2) : levels.map((l) => heightOf(l, height));
    const distances = centres.map((c) => Math.abs(c - y));
    return distances.indexOf(Math.min(...distances));
  };

  const take = async (grab: Grab): Promise<void> => {
    setHeld(grab);
    const ok = await engine.current?.grab(grab);
    if (!ok) {
      setHeld(null);
      setNote('No range step is on: add one to move the trace.');
    }
  };

  useDrag(ref, {
    onStart: ({ x, y }) => {
      setNote(null);
      const i = partAt(x, y);
      drag.current = { part: PARTS[i], from: levels[i] };
    },
    onMove: ({ dx, dy }) => {
      const d = drag.current;
      if (!d) return;
      if (d.sideways === undefined) {
        d.sideways = Math.abs(dx) > Math.abs(dy) * 1.5 || !grabbable;
        if (!d.sideways) void take(d.part.grab);
      }
      if (!d.sideways) engine.current?.dragTo(d.from - (dy / height) * span);
    },
    onEnd: ({ dx }, moved) => {
      const d = drag.current;
      drag.current = null;
      if (!d || !moved) return;
      if (d.sideways) {
        if (Math.abs(dx) > 40) setBench({ scopeView: view === 'luma' ? 'parade' : 'luma' });
        return;
      }
      setHeld(null);
      void engine.current?.letGo();
    },
  });

  const byKey = async (i: number, e: { key: string; shiftKey: boolean; preventDefault(): void }): Promise<void> => {
    const steps = { ArrowUp: 1, ArrowDown: -1 }[e.key];
    if (!steps) return;
    e.preventDefault();
    const from = levels[i];
    await take(PARTS[i].grab);
    engine.current?.dragTo(from + steps * KEY_STEP * (e.shiftKey ? 0.2 : 1));
    setHeld(null);
    await engine.current?.letGo();
  };

  return (
    <View style={{ width, height }} className="overflow-hidden bg-scope">
      <div
        ref={ref}
        data-testid="waveform"
        style={{ position: 'absolute', inset: 0, cursor: grabbable ? 'ns-resize' : 'default' }}
      >
        <View className="absolute inset-0" style={{ opacity: playing ? 0.4 : 1 }}>
          <TraceCanvas scope={scope} />
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
            className="absolute left-[5px] bg-scope px-[2px]"
            style={{ top: Math.min(height - 17, Math.max(0, heightOf(v, height) + (v === 0 ? -17 : 1))) }}
          >
            {v * 100}
          </Txt>
        ))}
        {grabbable
          ? PARTS.map((p, i) => (
              <View
                key={p.grab}
                className="absolute right-0"
                style={{
                  top: heightOf(levels[i], height) - 1,
                  height: 2,
                  width: HANDLE_WIDTH + 14,
                  backgroundColor: held === p.grab ? '#d7f75b' : '#ffffff',
                }}
                aria-hidden
              />
            ))
          : null}
        {grabbable
          ? PARTS.map((p, i) => (
              <div
                key={p.grab}
                role="slider"
                tabIndex={0}
                aria-orientation="vertical"
                aria-label={`${p.label} on the waveform`}
                aria-valuenow={Number((levels[i] * 100).toFixed(1))}
                aria-valuemin={TRACE_LOW * 100}
                aria-valuemax={TRACE_HIGH * 100}
                aria-valuetext={`${(levels[i] * 100).toFixed(1)} %`}
                onKeyDown={(e) => void byKey(i, e)}
                style={{
                  position: 'absolute',
                  right: 0,
                  top: tops[i],
                  width: HANDLE_WIDTH,
                  height: HANDLE_HEIGHT,
                  background: held === p.grab ? '#d7f75b' : '#2c2c2c',
                  borderLeft: `3px solid ${held === p.grab ? '#d7f75b' : '#ffffff'}`,
                  display: 'flex',
                  alignItems: 'center',
                  justifyContent: 'center',
                }}
              >
                <MarkIcon mark={p.mark} colour={held === p.grab ? '#141414' : '#ffffff'} />
              </div>
            ))
          : null}
      </div>
      <Pressable
        role="button"
        aria-label={view === 'luma' ? 'Show red, green and blue side by side' : 'Show luma'}
        onPress={() => setBench({ scopeView: view === 'luma' ? 'parade' : 'luma' })}
        className="absolute left-[40px] top-0 h-[44px] justify-start px-2 pt-[3px]"
      >
        <Txt size="sm" ink="text-scope-ink" className="rounded border border-[#8c8c8c] bg-scope px-2">
          {view === 'luma' ? 'luma ⇄' : 'red, green, blue ⇄'}
        </Txt>
      </Pressable>
      {held || note ? (
        <View className="pointer-events-none absolute bottom-[4px] left-[44px] right-[60px] items-center">
          <Txt bold ink="text-on-accent" className="rounded bg-accent px-2" numberOfLines={2}>
            {note ??
              `${PARTS.find((p) => p.grab === held)!.label} at ${((luma?.[PARTS.find((p) => p.grab === held)!.level] ?? 0) * 100).toFixed(1)} %`}
          </Txt>
        </View>
      ) : null}
    </View>
  );
}
