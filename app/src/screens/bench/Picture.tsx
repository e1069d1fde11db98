import { useRef, useState } from 'react';
import { ActivityIndicator, Pressable, View } from 'react-native';
import { useShallow } from 'zustand/react/shallow';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import { useEngine } from '../../engine/context';
import { WHOLE } from '../../engine/picture/look';
import { tell } from '../../state/messages';
import { useBench } from '../../state/bench';
import { useDrawing } from '../../state/drawing';
import { useHints } from '../../state/hints';
import { Txt } from '../../ui/Txt';
import { useDrag, type DragPoint } from '../../ui/useDrag';
import { usePinch } from '../../ui/usePinch';
import { SideLabels, SplitLine } from './Compare';
import { PICKS } from './kinds';
import { PinMarks } from './Pins';
import { beginShapeDrag, cancelShapeDrag, endShapeDrag, moveShapeDrag, placesShapes } from './region/drag';
import { RegionOutline } from './region/RegionOutline';
import { ShapeGuide } from './ShapeGuide';
import { SpotBubble } from './SpotBubble';
import { panBy, toPicture, toScreen, zoomAt } from './zoom';
import { ClippingLegend, ZoneLegend } from './Zones';

/** Edge in screen pixels of the area that a tap samples. */
const TAP_SIZE = 10;

/** Distance from an edge within which a drag moves the split. */
const EDGE = 18;
/** Magnification per notch of the wheel. */
const WHEEL = 1.25;
/** Two pictures side by side, each whole. */
const half = { position: 'absolute', top: '25%', width: '50%', height: '50%', display: 'block' } as const;
const HALF = { left: { ...half, left: 0 }, right: { ...half, left: '50%' } };

const BUFFERING = {
  loading: { what: 'loading', heard: 'Waiting for more of the clip to arrive' },
  making: { what: 'making the proxy', heard: 'Waiting for this part of the proxy to be made' },
};

const share = (v: number, all: number): number => Math.min(1, Math.max(0, v / all));

/** The rectangle dragged with a pointer. */
function areaOf({ x, y, dx, dy, width, height }: DragPoint): Area {
  const [x0, x1] = [share(x - dx, width), share(x, width)].sort((a, b) => a - b);
  const [y0, y1] = [share(y - dy, height), share(y, height)].sort((a, b) => a - b);
  return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
}

/** Position in one of two pictures side by side, each half as large; undefined outside them. */
function fromHalf({ x, y, width, height }: Area): Area | undefined {
  const area = { x: (x < 0.5 ? x : x - 0.5) * 2, y: (y - 0.25) * 2, width: width * 2, height: height * 2 };
  return area.y < 0 || area.y + area.height > 1 || area.x + area.width > 1 ? undefined : area;
}

const tapArea = ({ x, y, width, height }: DragPoint): Area => ({
  x: share(x - TAP_SIZE / 2, width),
  y: share(y - TAP_SIZE / 2, height),
  width: TAP_SIZE / width,
  height: TAP_SIZE / height,
});

/** The picture: a tap samples a colour, a drag an area, holding shows it as recorded. */
export function Picture({
  width,
  height,
  canvas,
}: {
  width: number;
  height: number;
  canvas: (element: HTMLCanvasElement | null) => void;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const engine = useEngine();
  const { set } = useBench.getState();
  const drawing = useDrawing((s) => s.drawing);
  const untouched = useBench((s) => s.untouched);
  const offer = useBench((s) => (s.offer ? (s.offer.without ? 'without' : 'with') : null));
  const atRest = useBench((s) => s.atRest);
  const playing = useBench((s) => s.playing);
  const buffering = useBench((s) => s.buffering);
  const picking = useBench((s) => s.picking);
  const spot = useBench((s) => s.spot);
  const { split, overlay, compareWith, beside, kept, view } = useBench(
    useShallow((s) => ({
      split: s.split,
      overlay: s.overlay,
      compareWith: s.compareWith,
      beside: s.beside,
      kept: s.kept,
      view: s.view,
    })),
  );
  const fromEdge = useRef(false);
  const placing = useRef(false);
  const aspect = useBench((s) => (s.opened ? s.opened.clip.facts.width / s.opened.clip.facts.height : 1));
  const [dragged, setDragged] = useState<Area | null>(null);

  const chosen = (touched: Area): void => {
    // Side by side both are half as large: a position in either is mapped to the picture.
    const onScreen = beside ? fromHalf(touched) : touched;
    if (!onScreen) return;
    const area = toPicture(onScreen, view);
    // The current state: the last drawn one may be older than the last tap.
    const { atRest: readable, picking: what, playing: moving } = useBench.getState();
    if (!readable) {
      if (!moving)
        tell({ key: 'unread', text: 'This frame is still on its way. Tap again when it is here.', fades: true });
      return;
    }
    engine.current?.spots.read(area);
    if (what && engine.current) void PICKS[what]?.run(engine.current.picks, area);
  };

  useDrag(ref, {
    // A drag from an edge moves the split; elsewhere it selects an area.
    onStart: (p) => {
      placing.current = placesShapes();
      if (placing.current) beginShapeDrag(p, view, aspect);
      else fromEdge.current = split === null && (p.x < EDGE || p.x > width - EDGE);
    },
    onMove: (p) => {
      if (untouched) return;
      if (placing.current) return moveShapeDrag(p);
      if (fromEdge.current) set({ split: share(p.x, p.width), spot: null });
      else setDragged(areaOf(p));
    },
    onHold: () => {
      set({ untouched: true, spot: null });
      useHints.getState().finish('hold');
    },
    onCancel: () => {
      if (placing.current) cancelShapeDrag();
      setDragged(null);
      set({ untouched: false });
    },
    onWheel: (steps, _fine, at) =>
      set({ view: zoomAt(view, at.x / at.width, at.y / at.height, steps > 0 ? WHEEL : 1 / WHEEL) }),
    onEnd: (p, moved) => {
      setDragged(null);
      if (placing.current) {
        if (useBench.getState().untouched) cancelShapeDrag();
        else endShapeDrag(p, moved);
        return set({ untouched: false });
      }
      if (fromEdge.current && moved) {
        const at = useBench.getState().split ?? 0;
        return set({ split: at < 0.03 || at > 0.97 ? null : at });
      }
      if (useBench.getState().untouched) return set({ untouched: false });
      chosen(moved ? areaOf(p) : tapArea(p));
    },
  });

  // Two fingers zoom and pan.
  usePinch(ref, ({ x, y, dx, dy, factor, width: w, height: h }) => {
    const moved = panBy(useBench.getState().view, dx / w, dy / h);
    set({ view: zoomAt(moved, x / w, y / h, factor), spot: null });
  });

  const frame = dragged ?? (spot && !beside ? toScreen(spot.area, view) : undefined);
  const zoom = 1 / view.width;
  const small = beside && compareWith === 'kept' && kept !== null;
  return (
    <View style={{ width, height }} className="bg-surround">
      <div
        ref={ref}
        role="application"
        aria-label="Picture: tap to read a colour, drag to take an area, hold to see it as recorded, two fingers to magnify"
        style={{ width, height, position: 'relative', cursor: 'crosshair', overflow: 'hidden' }}
      >
        <canvas
          // A canvas keeps its context type: another renderer needs another canvas.
          key={drawing}
          ref={canvas}
          data-testid="picture"
          style={small ? HALF.right : { width: '100%', height: '100%', display: 'block' }}
        />
        {kept && (small || (split !== null && compareWith === 'kept')) ? (
          <img
            src={kept}
            alt="Kept frame"
            draggable={false}
            style={
              small
                ? HALF.left
                : {
                    position: 'absolute',
                    left: `${-view.x * zoom * 100}%`,
                    top: `${-view.y * zoom * 100}%`,
                    width: `${zoom * 100}%`,
                    height: `${zoom * 100}%`,
                    pointerEvents: 'none',
                    clipPath: `inset(0 ${(1 - view.x - split! * view.width) * 100}% 0 0)`,
                  }
            }
          />
        ) : null}
        {frame ? (
          <div
            style={{
              position: 'absolute',
              left: `${frame.x * 100}%`,
              top: `${frame.y * 100}%`,
              width: `${frame.width * 100}%`,
              height: `${frame.height * 100}%`,
              border: '2px solid #fff',
              outline: '2px solid #000',
              boxSizing: 'border-box',
              pointerEvents: 'none',
            }}
          />
        ) : null}
      </div>
      {beside ? (
        [HALF.left, HALF.right].map((half) => (
          <div key={half.left} style={{ ...half, pointerEvents: 'none' }}>
            <ShapeGuide />
          </div>
        ))
      ) : (
        <ShapeGuide />
      )}
      <PinMarks width={width} height={height} />
      {untouched || beside ? null : <RegionOutline width={width} height={height} aspect={aspect} />}
      {overlay === 'zones' ? <ZoneLegend /> : null}
      {overlay === 'clipping' ? <ClippingLegend /> : null}
      {split !== null && !beside && !untouched ? <SplitLine width={width} height={height} /> : null}
      {beside && !untouched ? <SideLabels /> : null}
      {!atRest && !playing ? <Coming what="original frame" heard="Fetching the frame from the original" /> : null}
      {playing && buffering ? <Coming {...BUFFERING[buffering]} /> : null}
      {offer && !untouched ? (
        <Txt bold ink="text-white" className="pointer-events-none absolute left-2 top-2 rounded bg-black/75 px-2 py-1">
          {offer === 'without' ? 'As it is' : 'As offered'}
        </Txt>
      ) : null}
      {untouched ? (
        <Txt bold ink="text-white" className="pointer-events-none absolute left-2 top-2 rounded bg-black/75 px-2 py-1">
          {compareWith === 'step'
            ? 'Without the step in hand'
            : compareWith === 'region'
              ? 'Without the region'
              : 'As recorded'}
        </Txt>
      ) : null}
      {picking && !untouched ? (
        <Txt
          ink="text-on-accent"
          bold
          className="pointer-events-none absolute left-2 top-2 rounded bg-accent px-2 py-1"
        >
          {PICKS[picking]?.hint}
        </Txt>
      ) : null}
      {zoom > 1 ? (
        <Pressable
          role="button"
          aria-label={`${zoom.toFixed(1)} times: show the whole picture`}
          onPress={() => set({ view: WHOLE })}
          className="absolute right-0 top-0 h-[44px] min-w-[44px] items-end justify-start p-1"
        >
          <Txt size="sm" bold ink="text-white" className="rounded bg-black/75 px-2">
            ×{zoom.toFixed(1)}
          </Txt>
        </Pressable>
      ) : null}
      {spot && !dragged ? (
        <SpotBubble spot={spot} place={toScreen(spot.area, view)} width={width} height={height} />
      ) : null}
    </View>
  );
}

/** What the picture is waiting for. */
function Coming({ what, heard }: { what: string; heard: string }) {
  return (
    <View
      role="status"
      aria-label={heard}
      className="pointer-events-none absolute right-2 top-2 flex-row items-center gap-2 rounded bg-black/70 px-2 py-1"
    >
      <ActivityIndicator size="small" color="#ffffff" />
      <Txt size="sm" ink="text-white">
        {what}
      </Txt>
    </View>
  );
}
