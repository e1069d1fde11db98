import { useRef, useState, type ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import { useShallow } from 'zustand/react/shallow';
import { depthAt } from '@inkavo/core/model/diveLog';
import { fps, LONG_FRAMES, secondsOf } from '@inkavo/core/model/facts';
import type { Clip } from '@inkavo/core/model/outing';
import { madeStretches } from '@inkavo/core/model/proxyParts';
import { stripUrl } from '../../api/client';
import { shownTrim, useBench } from '../../state/bench';
import { endHere, goTo, startHere } from '../../state/playhead';
import { shownStrip } from '../../state/strip';
import { IconButton } from '../../ui/Button';
import { Progress } from '../../ui/Progress';
import { Thumb } from '../../ui/Thumb';
import { Txt } from '../../ui/Txt';
import { useDrag, type DragPoint } from '../../ui/useDrag';
import { HoldBand, troubleAt } from './HoldBand';
import { PlayButton } from './PlayButton';
import { canPlay, useProxyJob, useProxyParts } from './proxyJob';
import { PlaySheet } from './PlaySheet';
import { StripDrag } from './stripDrag';
import { timeText } from './timeText';
import { TrimHandle } from './TrimHandle';
import { ChevronFirst, ChevronLast, Diamond, StepBack, StepForward } from '../../ui/icons';

/** Padding of the strip for the handles of in and out. */
export const STRIP_SIDE = 30;
const SHADE = '#000000a8';
const DASHES = '3px dashed var(--ink)';
const MORE = { position: 'absolute', top: 0, bottom: 0, pointerEvents: 'none' } as const;
const SPEEDS: Record<string, string> = { 0.25: '¼×', 0.5: '½×', 1: '', 2: '2×' };

/**
 * The filmstrip with in, out and a playhead to scrub; below it, play and frame step buttons. `oneRow`: side by side.
 */
export function ScrubStrip({ clip, oneRow }: { clip: Clip; oneRow?: boolean }) {
  if (oneRow)
    return (
      <View className="h-[56px] justify-center border-t-stroke border-line bg-ground">
        <PlayRow clip={clip}>
          <Strip clip={clip} />
        </PlayRow>
      </View>
    );
  return (
    <View className="border-t-stroke border-line bg-ground pt-1">
      <Strip clip={clip} />
      <PlayRow clip={clip} />
    </View>
  );
}

function Strip({ clip }: { clip: Clip }) {
  const { id, facts, proxy } = clip;
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const frame = useBench((s) => s.frame);
  const { inFrame, outFrame } = useBench(shownTrim);
  const rate = fps(facts);
  const end = facts.frames - 1;
  const strip = useBench(useShallow(shownStrip));
  const part = useBench((s) => s.strip);
  const { first, last } = strip;
  const span = last - first;
  // Stretches lie between measured frames.
  const reach = end / 48;
  const percent = (f: number): `${number}%` => `${Math.min(1, Math.max(0, span ? (f - first) / span : 0)) * 100}%`;

  const drag = useRef(new StripDrag());
  const placeOf = ({ x, width: w }: DragPoint): number => first + (x / w) * span;
  useDrag(ref, {
    onStart: (p) => {
      const at = placeOf(p);
      drag.current.begin(p, at);
      goTo(at);
    },
    // A tap on a marked stretch goes to its worst frame.
    onEnd: (p, moved) => {
      const at = placeOf(p);
      const found = moved ? undefined : troubleAt(useBench.getState().hold?.report.troubles ?? [], at, reach);
      if (found) goTo(found.worstFrame);
      useBench.getState().set({ finer: null });
    },
    onMove: (p) => {
      const { frame: to, finer } = drag.current.move(p, span);
      goTo(Math.min(last, Math.max(first, to)));
      useBench.getState().set({ finer });
    },
  });

  const onKeyDown = (e: { key: string; shiftKey: boolean; preventDefault(): void }): void => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    if (by) goTo(frame + by * (e.shiftKey ? 10 : 1));
    else if (e.key === 'Home') goTo(inFrame);
    else if (e.key === 'End') goTo(outFrame);
    else return;
    e.preventDefault();
  };

  return (
    <View style={{ marginHorizontal: STRIP_SIDE }} onLayout={(e) => setWidth(e.nativeEvent.layout.width)}>
      <div
        ref={ref}
        role="slider"
        tabIndex={0}
        aria-label="Place in the clip"
        aria-valuemin={0}
        aria-valuemax={end}
        aria-valuenow={frame}
        aria-valuetext={`frame ${frame} of ${end}, ${timeText(frame, rate)}`}
        onKeyDown={onKeyDown}
        data-testid="scrub"
        style={{ position: 'relative', height: 40, cursor: 'ew-resize', background: 'var(--surface)' }}
      >
        {/* The proxy of a short clip is ready sooner than its original could be decoded for this. */}
        {proxy !== 'waiting' || facts.frames > LONG_FRAMES ? (
          <Thumb
            src={stripUrl(id, facts.probed, part)}
            style={{ width: '100%', height: '100%', objectFit: 'fill', pointerEvents: 'none', display: 'block' }}
          />
        ) : null}
        {/* The recording continues beyond this end. */}
        {first > 0 ? <div style={{ ...MORE, left: 0, borderLeft: DASHES }} /> : null}
        {last < end ? <div style={{ ...MORE, right: 0, borderRight: DASHES }} /> : null}
        <ProxyShare clip={clip} />
        <HoldBand strip={strip} reach={reach} />
        <div style={{ position: 'absolute', left: 0, top: 0, bottom: 0, width: percent(inFrame), background: SHADE }} />
        <div
          style={{ position: 'absolute', right: 0, top: 0, bottom: 0, left: percent(outFrame), background: SHADE }}
        />
        <div
          style={{
            position: 'absolute',
            top: -4,
            bottom: -4,
            left: `calc(${percent(frame)} - 2px)`,
            width: 4,
            background: '#d7f75b',
            outline: '1px solid #000',
            zIndex: 1,
            pointerEvents: 'none',
          }}
        />
      </div>
      <TrimHandle side="in" last={end} width={width} text={timeText(inFrame, rate)} />
      <TrimHandle side="out" last={end} width={width} text={timeText(outFrame, rate)} />
    </View>
  );
}

/** Progress of the proxy along the strip: which parts of the clip are done. */
function ProxyShare({ clip }: { clip: Clip }) {
  const job = useProxyJob(clip);
  const parts = useProxyParts(clip);
  const { first, last } = useBench(useShallow(shownStrip));
  if (job?.state !== 'running' || clip.proxy === 'ready') return null;
  const share = (whole: number): number => (whole * clip.facts.frames - first) / (last - first + 1);
  const onStrip = ({ from, to }: { from: number; to: number }) => ({ from: share(from), to: share(to) });
  return (
    <View className="absolute inset-x-0 bottom-0">
      <Progress
        label="Making the proxy"
        value={job.progress}
        stretches={parts && madeStretches(parts, job.progress, clip.facts.frames).map(onStrip)}
      />
    </View>
  );
}

/** Hint during a drag: how much finer it is, or could be. */
const finerText = (finer: number): string =>
  finer < 1.05 ? 'up: finer' : `${finer < 9.5 ? finer.toFixed(1) : finer.toFixed(0)}× finer`;

/**
 * With the strip in the row there is no room for the values of in and out: they are on the strip, and on the sheet
 * behind the time.
 */
function PlayRow({ clip, children }: { clip: Clip; children?: ReactNode }) {
  const { facts } = clip;
  const frame = useBench((s) => s.frame);
  const dive = useBench((s) => s.dive);
  const play = useBench((s) => s.play);
  const { inFrame, outFrame } = useBench(shownTrim);
  const keying = useBench((s) => s.keying !== null);
  const finer = useBench((s) => s.finer);
  const [open, setOpen] = useState(false);
  const [winding, setWinding] = useState<number | null>(null);
  const { set } = useBench.getState();
  const rate = fps(facts);
  const depth = dive && depthAt(dive.log, secondsOf(facts, frame) + dive.offset);
  const kept = timeText(outFrame - inFrame + 1, rate);
  const trimmed = outFrame - inFrame + 1 < facts.frames;
  const speed = winding === null ? SPEEDS[play.speed] : `${winding < 0 ? '−' : ''}${Math.abs(winding).toFixed(1)}×`;
  return (
    <View className={`flex-row items-center ${children ? 'px-1' : 'px-3'}`}>
      <PlayButton facts={facts} disabled={!canPlay(clip)} onWind={setWinding} />
      <IconButton label="One frame back" icon={StepBack} onPress={() => goTo(frame - 1)} />
      <IconButton label="One frame on" icon={StepForward} onPress={() => goTo(frame + 1)} />
      {children ? <View className="min-w-0 flex-1">{children}</View> : null}
      <Pressable
        role="button"
        aria-label={`${timeText(frame, rate)}, kept ${kept}: speed, loop, in and out`}
        onPress={() => setOpen(true)}
        className={`min-h-[44px] items-center justify-center active:opacity-60 ${children ? 'w-[76px]' : 'min-w-0 flex-1'}`}
      >
        <Txt testID="time" style={{ textDecorationLine: 'underline', textDecorationStyle: 'dotted' }}>
          {timeText(frame, rate)}
          {speed ? ` ${speed}` : ''}
        </Txt>
        {/* One line: if there is no room for both, the depth replaces the clip's length. */}
        <View className="h-[20px] w-full flex-row flex-wrap justify-center gap-x-2 overflow-hidden">
          {depth === null ? null : <Txt size="sm">{`${depth.toFixed(1)} m deep`}</Txt>}
          <Txt size="sm" quiet testID="length">
            {finer === null ? `${trimmed ? 'kept' : 'of'} ${kept}` : finerText(finer)}
          </Txt>
        </View>
      </Pressable>
      <IconButton
        label="Keyframes of the step in hand"
        icon={Diamond}
        pressed={keying}
        className={keying ? 'bg-raised' : ''}
        onPress={() => set({ keying: keying ? null : '' })}
      />
      {children ? null : (
        <>
          <IconButton label="Set in to this frame" icon={ChevronFirst} onPress={startHere} />
          <IconButton label="Set out to this frame" icon={ChevronLast} onPress={endHere} />
        </>
      )}
      {open ? <PlaySheet facts={facts} onClose={() => setOpen(false)} /> : null}
    </View>
  );
}
