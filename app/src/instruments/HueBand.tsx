import { useRef, useState } from 'react';
import { Pressable, View } from 'react-native';
import Svg, { Circle, G, Line, Path, Polygon } from 'react-native-svg';
import type { Stem } from '@inkavo/core/steps/hues';
import type { NumberSpec } from '@inkavo/core/steps';
import { useScope } from '../engine/scope';
import { useBench } from '../state/bench';
import { Choice } from '../ui/Choice';
import { Txt } from '../ui/Txt';
import { useDrag } from '../ui/useDrag';
import { Lock, LockOpen, Pipette, Trash } from '../ui/icons';
import { hueColour, hueGradient } from './hueColour';
import { moveStem, newStem, partUnder, stemPoints, STRIP, type StemPart } from './hueStems';
import { Ruler } from './Ruler';

const HEIGHT = 100;
const MAX_STEMS = 24;

const STEM_NUMBERS = [
  { key: 'turn', label: 'Hue', unit: 'percent', min: -0.25, max: 0.25, neutral: 0, step: 0.005 },
  { key: 'saturation', label: 'Saturation', unit: 'factor', min: 0, max: 4, neutral: 1, step: 0.02 },
  { key: 'lightness', label: 'Lightness', unit: 'percent', min: -0.4, max: 0.4, neutral: 0, step: 0.005 },
  { key: 'reach', label: 'Reach', unit: 'percent', min: 0.01, max: 0.5, neutral: 0.08, step: 0.005 },
] as const satisfies readonly (NumberSpec & { key: keyof Stem })[];
type StemNumber = (typeof STEM_NUMBERS)[number]['key'];
/** The number that a part of a stem changes. */
const NUMBER_OF: Partial<Record<StemPart, StemNumber>> = {
  head: 'saturation',
  collar: 'lightness',
  foot: 'turn',
  skirt: 'reach',
};

/**
 * A strip of hues under the frame's hue histogram. A pick in the picture, or a tap on the band, adds a stem: its foot
 * shifts the hue, its head the saturation, its collar the lightness, its skirt the width of its range.
 */
export function HueBand({ id, stems }: { id: string; stems: Stem[] }) {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(300);
  const [number, setNumber] = useState<StemNumber>('saturation');
  const picking = useBench((s) => s.picking === 'hue');
  const hues = useScope()?.hues;
  const inHand = Math.min(
    stems.length - 1,
    useBench((s) => s.stem),
  );
  const { set, setParams, settle } = useBench.getState();
  const drag = useRef<{ stems: Stem[]; index: number; part: StemPart } | null>(null);
  const box = { width: Math.max(60, width), height: HEIGHT };
  const put = (next: Stem[], live = false): void => setParams(id, { stems: next }, live);
  const change = (index: number, stem: Stem, live = false): void => put(stems.with(index, stem), live);

  useDrag(ref, {
    onStart: ({ x, y }) => {
      const found = stems
        .map((stem, index) => ({ index, hit: partUnder(stem, x, y, box) }))
        .filter((f) => f.hit)
        .sort((a, b) => a.hit!.distance - b.hit!.distance || (a.index === inHand ? -1 : 1))[0];
      drag.current = found ? { stems, index: found.index, part: found.hit!.part } : null;
      if (!found) return;
      set({ stem: found.index });
      setNumber(NUMBER_OF[found.hit!.part] ?? number);
    },
    onMove: ({ dx, dy }) => {
      const d = drag.current;
      if (d) put(d.stems.with(d.index, moveStem(d.stems[d.index], d.part, dx, dy, box)), true);
    },
    onEnd: ({ x }, moved) => {
      if (drag.current && moved) settle();
      else if (!drag.current && !moved && stems.length < MAX_STEMS) {
        put([...stems, newStem(x / box.width)]);
        set({ stem: stems.length });
      }
      drag.current = null;
    },
  });

  const stem = stems[inHand];
  const spec = STEM_NUMBERS.find((n) => n.key === number)!;
  return (
    <View testID="hue-band">
      <View className="h-[44px] flex-row items-center gap-2 px-2">
        <Tool
          label="Pick a hue in the picture"
          on={picking}
          icon={Pipette}
          title="Pick"
          onPress={() => set({ picking: picking ? null : 'hue', spot: null })}
        />
        <Txt size="sm" quiet className="min-w-0 flex-1" numberOfLines={2}>
          {stem ? `Stem ${inHand + 1} of ${stems.length}` : 'Pick a colour in the picture, or tap the band.'}
        </Txt>
        {stem ? (
          <>
            <Tool
              label={stem.locked ? 'Let this hue go' : 'Hold this hue against the other stems'}
              on={stem.locked}
              icon={stem.locked ? Lock : LockOpen}
              onPress={() => change(inHand, { ...stem, locked: !stem.locked })}
            />
            <Tool label="Remove this stem" icon={Trash} onPress={() => put(stems.toSpliced(inHand, 1))} />
          </>
        ) : null}
      </View>
      <View onLayout={(e) => setWidth(e.nativeEvent.layout.width)} className="bg-scope" style={{ height: HEIGHT }}>
        <div
          ref={ref}
          role="application"
          aria-label="Hue band: drag a stem’s foot, head, collar or skirt; tap to drop a stem"
          style={{ position: 'absolute', inset: 0, cursor: 'crosshair' }}
        >
          <div
            style={{
              position: 'absolute',
              left: 0,
              right: 0,
              bottom: 0,
              height: STRIP,
              background: hueGradient(),
            }}
          />
          <Svg width={box.width} height={HEIGHT} style={{ position: 'absolute' }} aria-hidden>
            {hues ? <Path d={histogramPath(hues, box.width, HEIGHT - STRIP)} fill="#5c5c5c" /> : null}
            {stems.map((s, i) => (
              <StemShape key={i} stem={s} on={i === inHand} width={box.width} />
            ))}
          </Svg>
        </div>
      </View>
      {stem ? (
        <>
          <View className="px-2 pt-1">
            <Choice
              label="Number of the stem"
              value={number}
              options={STEM_NUMBERS.map((n) => ({ value: n.key, title: n.label }))}
              onChange={setNumber}
            />
          </View>
          <Ruler
            spec={spec}
            value={stem[number]}
            onChange={(v, live) => change(inHand, { ...stem, [number]: v }, live)}
            onSettle={settle}
          />
        </>
      ) : null}
    </View>
  );
}

function StemShape({ stem, on, width }: { stem: Stem; on: boolean; width: number }) {
  const p = stemPoints(stem, { width, height: HEIGHT });
  const plot = HEIGHT - STRIP;
  const ink = on ? '#d7f75b' : '#f4f4f4';
  // The band wraps around: what extends beyond one end appears at the other.
  return [-width, 0, width].map((shift) => (
    <G key={shift} transform={`translate(${shift} 0)`}>
      <Polygon
        points={`${p.skirt[0]},${plot} ${p.x},${p.head} ${p.skirt[1]},${plot}`}
        fill={hueColour(stem.hue)}
        fillOpacity={on ? 0.32 : 0.18}
      />
      <Line
        x1={p.x}
        x2={p.x}
        y1={p.head}
        y2={plot}
        stroke={ink}
        strokeWidth={2}
        strokeDasharray={stem.locked ? '3 3' : undefined}
      />
      <Line x1={p.x} x2={p.foot} y1={plot} y2={plot + STRIP / 2} stroke={ink} strokeWidth={2} />
      {p.skirt.map((x) => (
        <Line key={x} x1={x} x2={x} y1={plot * 0.88 - 7} y2={plot * 0.88 + 7} stroke={ink} strokeWidth={on ? 4 : 2} />
      ))}
      <Circle cx={p.x} cy={p.head} r={on ? 8 : 6} fill={ink} stroke="#101010" />
      <Polygon
        points={`${p.x},${p.collar - 8} ${p.x + 8},${p.collar} ${p.x},${p.collar + 8} ${p.x - 8},${p.collar}`}
        fill={ink}
        stroke="#101010"
      />
      <Circle
        cx={p.foot}
        cy={plot + STRIP / 2}
        r={on ? 7 : 5}
        fill={hueColour(stem.hue + stem.turn)}
        stroke={ink}
        strokeWidth={2}
      />
    </G>
  ));
}

function histogramPath(hues: Float32Array, width: number, height: number): string {
  let path = `M0 ${height}`;
  hues.forEach((v, i) => {
    const x = ((i + 0.5) / hues.length) * width;
    path += `L${x.toFixed(1)} ${(height * (1 - 0.92 * Math.sqrt(v))).toFixed(1)}`;
  });
  return `${path}L${width} ${height}Z`;
}

function Tool({
  label,
  title,
  icon: Icon,
  on,
  onPress,
}: {
  label: string;
  title?: string;
  icon: typeof Pipette;
  on?: boolean;
  onPress(): void;
}) {
  return (
    <Pressable
      role="button"
      aria-label={label}
      aria-pressed={Boolean(on)}
      onPress={onPress}
      className={`h-[44px] min-w-[44px] flex-row items-center justify-center gap-2 rounded border-stroke border-edge px-2 ${on ? 'bg-accent' : 'bg-surface'}`}
    >
      <Icon size={18} color={on ? 'var(--on-accent)' : 'var(--ink)'} aria-hidden />
      {title ? <Txt ink={on ? 'text-on-accent' : 'text-ink'}>{title}</Txt> : null}
    </Pressable>
  );
}
