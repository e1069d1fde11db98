import { useEffect, useRef } from 'react';
import { Pressable, View } from 'react-native';
import { useEngine } from '../../engine/context';
import { useBench } from '../../state/bench';
import { keepFrame } from '../../state/keptFrame';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import {
  Columns2,
  Eye,
  Gauge,
  Grid3x3,
  ImagePlus,
  Images,
  Maximize,
  TriangleAlert,
  ZoomIn,
  ZoomOut,
} from '../../ui/icons';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { useDrag } from '../../ui/useDrag';
import { WHOLE } from '../../engine/picture/look';
import { ShapeChoice } from '../ShapeChoice';
import { enterFull } from './Full';
import { regionStep } from './region/inHand';
import { zoomToPixels } from './zoom';

const AGAINST = [
  { value: 'recorded', title: 'As recorded' },
  { value: 'step', title: 'Without this step' },
] as const;

/** Viewing aids over the picture: split, clipping, zones, a kept frame, a rest for the eye. */
export function CompareSheet({ onHold, onKept, onClose }: { onHold(): void; onKept(): void; onClose(): void }) {
  const { split, overlay, compareWith, beside, kept, keptTitle, guide } = useBench();
  const { set } = useBench.getState();
  const engine = useEngine();
  const whole = useBench((s) => s.view.width === 1);
  const inRegion = useBench((s) => regionStep(s) !== undefined);
  const options = [
    ...AGAINST,
    ...(inRegion ? [{ value: 'region', title: 'Without region' } as const] : []),
    ...(kept ? [{ value: 'kept', title: keptTitle ? 'Other clip' : 'Kept frame' } as const] : []),
  ];
  const toggle = (part: Parameters<typeof set>[0]) => () => {
    set(part);
    onClose();
  };
  return (
    <Sheet title="Compare and check" onClose={onClose}>
      <Button title="Hold check: measure the whole clip" icon={Gauge} onPress={onHold} />
      <Txt size="sm" quiet>
        Held, and left of the split, the picture is
      </Txt>
      <Choice
        label="Compare with"
        value={compareWith}
        options={options}
        onChange={(v) => set({ compareWith: v, ...(v === 'kept' && !beside ? { split: split ?? 0.5 } : {}) })}
      />
      <View className="flex-row gap-2">
        <Button
          title={split === null ? 'Split' : 'No split'}
          icon={Columns2}
          className="flex-1"
          onPress={toggle({ split: split === null ? 0.5 : null })}
        />
        <Button
          title={beside ? 'One picture' : 'Side by side'}
          icon={Images}
          className="flex-1"
          onPress={toggle({ beside: !beside, split: null })}
        />
      </View>
      <View className="flex-row gap-2">
        <Button
          title={overlay === 'clipping' ? 'Hide clipping' : 'Show clipping'}
          icon={TriangleAlert}
          className="flex-1"
          onPress={toggle({ overlay: overlay === 'clipping' ? 'none' : 'clipping' })}
        />
        <Button
          title={overlay === 'zones' ? 'Hide zones' : 'Zones 0–10'}
          icon={Grid3x3}
          className="flex-1"
          onPress={toggle({ overlay: overlay === 'zones' ? 'none' : 'zones' })}
        />
      </View>
      <View className="flex-row gap-2">
        <Button
          title={whole ? '100 %' : 'Whole picture'}
          icon={whole ? ZoomIn : ZoomOut}
          className="flex-1"
          onPress={() => {
            if (whole) zoomToPixels(engine.current?.width);
            else set({ view: WHOLE });
            onClose();
          }}
        />
        <Button
          title="Full screen"
          icon={Maximize}
          className="flex-1"
          onPress={() => {
            onClose();
            enterFull();
          }}
        />
      </View>
      <View className="flex-row gap-2">
        <Button title="Rest the eye" icon={Eye} className="flex-1" onPress={toggle({ eyeRest: 'field' })} />
        <Button
          title="Keep this frame"
          icon={ImagePlus}
          className="flex-1"
          onPress={() => {
            void engine.current?.capture().then(keepFrame);
            onClose();
          }}
        />
      </View>
      <Txt size="sm" quiet>
        Cover what a cut to this shape takes away
      </Txt>
      <ShapeChoice
        value={guide}
        own="None"
        onChange={(shape) => {
          set({ guide: shape });
          onClose();
        }}
      />
      <Button title="Kept frames and variants …" icon={Images} onPress={onKept} />
    </Sheet>
  );
}

const LEFT = {
  recorded: 'as recorded',
  step: 'without the step',
  region: 'without the region',
  kept: 'kept',
} as const;

/** Labels of the left and the right side. */
export function SideLabels() {
  const left = useBench((s) => (s.compareWith === 'kept' && s.keptTitle) || LEFT[s.compareWith]);
  // That corner shows the magnification.
  const magnified = useBench((s) => s.view.width < 1);
  return (
    <>
      <View className="pointer-events-none absolute left-1 top-1 max-w-[48%] rounded bg-black/75 px-2">
        <Txt size="sm" ink="text-white" numberOfLines={1}>
          {left}
        </Txt>
      </View>
      <View
        className={`pointer-events-none absolute right-1 rounded bg-black/75 px-2 ${magnified ? 'top-[34px]' : 'top-1'}`}
      >
        <Txt size="sm" ink="text-white">
          graded
        </Txt>
      </View>
    </>
  );
}

/** The split line with a grip; releasing it at an edge removes it. */
export function SplitLine({ width, height }: { width: number; height: number }) {
  const ref = useRef<HTMLDivElement>(null);
  const split = useBench((s) => s.split)!;
  const { set } = useBench.getState();
  const from = useRef(split);
  const to = (share: number): void => set({ split: Math.min(1, Math.max(0, share)) });
  useDrag(ref, {
    onStart: () => void (from.current = split),
    onMove: ({ dx }) => to(from.current + dx / width),
    onEnd: () => {
      const now = useBench.getState().split ?? 0;
      if (now < 0.03 || now > 0.97) set({ split: null });
    },
  });
  return (
    <>
      <SideLabels />
      <div
        ref={ref}
        role="slider"
        tabIndex={0}
        aria-label="Split: drag to move the line"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(split * 100)}
        data-testid="split"
        onKeyDown={(e) => {
          const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[e.key];
          if (by) to(split + by);
          else if (e.key === 'Escape' || e.key === 'Delete') set({ split: null });
          else return;
          e.preventDefault();
        }}
        style={{ position: 'absolute', left: split * width - 22, top: 0, width: 44, height, cursor: 'ew-resize' }}
      >
        <div
          style={{
            position: 'absolute',
            left: 21,
            top: 0,
            bottom: 0,
            width: 2,
            background: '#fff',
            outline: '1px solid #000',
          }}
        />
        <div
          style={{
            position: 'absolute',
            left: 8,
            top: height / 2 - 14,
            width: 28,
            height: 28,
            borderRadius: 14,
            background: '#fff',
            outline: '2px solid #000',
          }}
        />
      </div>
    </>
  );
}

const REST_MS = 4000;
const BEFORE_MS = 2500;

/** A neutral field for a few seconds, then the picture as recorded, then graded. */
export function EyeRest() {
  const eyeRest = useBench((s) => s.eyeRest);
  const { set } = useBench.getState();
  useEffect(() => {
    if (!eyeRest) return undefined;
    const next = eyeRest === 'field' ? ('before' as const) : null;
    const timer = setTimeout(() => set({ eyeRest: next }), eyeRest === 'field' ? REST_MS : BEFORE_MS);
    return () => clearTimeout(timer);
  }, [eyeRest, set]);
  if (eyeRest !== 'field') return null;
  return (
    <Pressable
      role="button"
      aria-label="Rest for the eye: skip it"
      onPress={() => set({ eyeRest: 'before' })}
      className="absolute inset-0 items-center justify-end bg-[#686868] pb-16"
      testID="eye-rest"
    >
      <Txt ink="text-black">Look into the grey. The picture comes back in a moment.</Txt>
    </Pressable>
  );
}
