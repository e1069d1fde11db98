import { useRef, useState } from 'react';
import { View } from 'react-native';
import Svg, { Path } from 'react-native-svg';
import type { Grab } from '@inkavo/core/scopes/solver';
import type { Levels } from '@inkavo/core/scopes/levels';
import type { Spread } from '@inkavo/core/scopes/statistics';
import { TRACE_HIGH, TRACE_LOW } from '@inkavo/core/scopes/trace';
import { useEngine } from '../engine/context';
import { useScope } from '../engine/scope';
import { useBench } from '../state/bench';
import { Txt } from '../ui/Txt';
import { useDrag } from '../ui/useDrag';
import { MarkIcon } from './marks';
import { nearest } from './waveformParts';

const SPAN = TRACE_HIGH - TRACE_LOW;
const FOOT = 20;
const INKS = { red: '#ff5c54', green: '#54e86e', blue: '#6898ff' } as const;
const MARKS = [
  { grab: 'bottom', level: 'low', mark: 'shadows', label: 'Shadows' },
  { grab: 'middle', level: 'mid', mark: 'midtones', label: 'Midtones' },
  { grab: 'top', level: 'high', mark: 'highlights', label: 'Highlights' },
] as const;

/** The outline of a histogram: square roots, so that small counts are visible; the ends may exceed the picture. */
function outline(counts: Uint32Array, width: number, height: number, most: number): string {
  const x = (i: number): string => ((i / counts.length) * width).toFixed(1);
  const y = (n: number): string => (height - Math.min(1, Math.sqrt(n / most)) * height).toFixed(1);
  let path = `M0 ${height}`;
  counts.forEach((n, i) => (path += `L${x(i)} ${y(n)}L${x(i + 1)} ${y(n)}`));
  return `${path}L${width} ${height}Z`;
}

/** A histogram with luma filled and the channels as lines; its marks are dragged sideways. */
export function Histogram({ width, height }: { width: number; height: number }) {
  const ref = useRef<HTMLDivElement>(null);
  const engine = useEngine();
  const scope = useScope();
  const playing = useBench((s) => s.playing);
  const [held, setHeld] = useState<Grab | null>(null);
  const from = useRef(0);
  const xOf = (level: number): number => ((level - TRACE_LOW) / SPAN) * width;
  const levels = scope && !playing ? scope.levels : null;
  const luma = scope?.statistics.luma;

  useDrag(ref, {
    onStart: ({ x }) => {
      if (!luma || playing) return false;
      const i = nearest(
        MARKS.map((m) => xOf(luma[m.level])),
        x,
      );
      from.current = luma[MARKS[i].level];
      setHeld(MARKS[i].grab);
      engine.current?.grabber.take(MARKS[i].grab);
      return true;
    },
    onMove: ({ dx }) => engine.current?.grabber.moveTo(from.current + (dx / width) * SPAN),
    onEnd: () => {
      setHeld(null);
      void engine.current?.grabber.letGo();
    },
  });

  return (
    <div ref={ref} data-testid="histogram" style={{ position: 'absolute', inset: 0, cursor: 'ew-resize' }}>
      {levels && luma ? <Plot levels={levels} luma={luma} held={held} width={width} height={height} /> : null}
    </div>
  );
}

/** The drawn histogram, with the marks at its bottom. */
function Plot({
  levels,
  luma,
  held,
  width,
  height,
}: {
  levels: Levels;
  luma: Spread;
  held: Grab | null;
  width: number;
  height: number;
}) {
  const xOf = (level: number): number => ((level - TRACE_LOW) / SPAN) * width;
  // The end bins include everything beyond them, and are ignored for scaling.
  const inner = (counts: Uint32Array): number => counts.slice(2, -2).reduce((a, b) => Math.max(a, b), 1);
  const most = Math.max(...[levels.luma, levels.red, levels.green, levels.blue].map(inner));
  const plot = height - FOOT;
  return (
    <>
      <Svg width={width} height={plot} aria-hidden>
        <Path d={outline(levels.luma, width, plot, most)} fill="#8c8c8c" />
        {(['red', 'green', 'blue'] as const).map((c) => (
          <Path key={c} d={outline(levels[c], width, plot, most)} fill="none" stroke={INKS[c]} strokeWidth={1.5} />
        ))}
      </Svg>
      {[0, 0.25, 0.5, 0.75, 1].map((v) => (
        <View
          key={v}
          className="pointer-events-none absolute top-0"
          style={{ left: xOf(v), height: plot, width: 1, backgroundColor: v === 0 || v === 1 ? '#d0d0d0' : '#4a4a4a' }}
        />
      ))}
      {[0, 0.5, 1].map((v) => (
        <Txt
          key={v}
          size="sm"
          ink="text-scope-ink"
          className="pointer-events-none absolute"
          style={{ left: xOf(v) + 3, top: 1 }}
        >
          {v * 100}
        </Txt>
      ))}
      {MARKS.map(({ grab, level, mark, label }) => (
        <View
          key={grab}
          className="pointer-events-none absolute items-center"
          style={{
            left: xOf(luma[level]) - 12,
            bottom: 0,
            width: 24,
            height: FOOT,
            backgroundColor: held === grab ? '#d7f75b' : '#2c2c2c',
          }}
          role="img"
          aria-label={`${label} at ${(luma[level] * 100).toFixed(1)} %`}
        >
          <MarkIcon mark={mark} colour={held === grab ? '#141414' : '#ffffff'} />
        </View>
      ))}
      {held ? (
        <View className="pointer-events-none absolute bottom-[24px] left-0 right-0 items-center">
          <Txt bold ink="text-on-accent" className="rounded bg-accent px-2">
            {MARKS.filter((m) => m.grab === held).map((m) => `${m.label} at ${(luma[m.level] * 100).toFixed(1)} %`)}
          </Txt>
        </View>
      ) : null}
    </>
  );
}
