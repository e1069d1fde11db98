import { useQueryClient } from '@tanstack/react-query';
import { useRef } from 'react';
import { View } from 'react-native';
import { depthAt } from '@inkavo/core/model/diveLog';
import { fps, secondsOf } from '@inkavo/core/model/facts';
import type { Clip } from '@inkavo/core/model/outing';
import { api, stripUrl } from '../../api/client';
import { useBench } from '../../state/bench';
import { tellTrouble } from '../../state/messages';
import { IconButton } from '../../ui/Button';
import { Txt } from '../../ui/Txt';
import { useDrag } from '../../ui/useDrag';
import { HoldBand, troubleAt } from './HoldBand';
import { timeText } from './timeText';
import { ChevronFirst, ChevronLast, Diamond, Pause, Play, StepBack, StepForward } from '../../ui/icons';

/** Frames of the clip with in and out and a needle to scrub; below, play and single steps. */
export function ScrubStrip({ clip }: { clip: Clip }) {
  const ref = useRef<HTMLDivElement>(null);
  const client = useQueryClient();
  const frame = useBench((s) => s.frame);
  const playing = useBench((s) => s.playing);
  const { set } = useBench.getState();
  const { facts, inFrame, outFrame } = clip;
  const last = facts.frames - 1;
  const go = (to: number): void => set({ playing: false, frame: Math.min(last, Math.max(0, Math.round(to))) });
  const keying = useBench((s) => s.keying !== null);
  const depth = clip.dive && depthAt(clip.dive.log, secondsOf(facts, frame) + clip.dive.offset);
  // Stretches are found between frames that were measured.
  const reach = last / 48;
  const percent = (f: number): `${number}%` => `${(last ? f / last : 0) * 100}%`;

  useDrag(ref, {
    onStart: ({ x, width }) => go((x / width) * last),
    // A tap on a stretch that does not hold goes to its worst frame.
    onEnd: ({ x, width }, moved) => {
      const at = (x / width) * last;
      const found = moved ? undefined : troubleAt(useBench.getState().hold?.report.troubles ?? [], at, reach);
      if (found) go(found.worstFrame);
    },
    onMove: ({ x, width }) => go((x / width) * last),
  });

  const trim = async (patch: { inFrame?: number; outFrame?: number }): Promise<void> => {
    const { opened } = useBench.getState();
    try {
      const changed = await api.changeClip(clip.id, patch);
      if (opened?.clip.id === clip.id)
        set({ opened: { ...opened, clip: { ...opened.clip, inFrame: changed.inFrame, outFrame: changed.outFrame } } });
      void client.invalidateQueries({ queryKey: ['outing', clip.outingId] });
    } catch (error) {
      tellTrouble('strip', (error as Error).message);
    }
  };

  const onKeyDown = (e: { key: string; shiftKey: boolean; preventDefault(): void }): void => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
    if (by) go(frame + by * (e.shiftKey ? 10 : 1));
    else if (e.key === 'Home') go(inFrame);
    else if (e.key === 'End') go(outFrame);
    else return;
    e.preventDefault();
  };

  return (
    <View className="border-t-stroke border-line bg-ground px-3 pt-1">
      <div
        ref={ref}
        role="slider"
        tabIndex={0}
        aria-label="Place in the clip"
        aria-valuemin={0}
        aria-valuemax={last}
        aria-valuenow={frame}
        aria-valuetext={`frame ${frame} of ${last}, ${timeText(frame, fps(facts))}`}
        onKeyDown={onKeyDown}
        data-testid="scrub"
        style={{ position: 'relative', height: 40, cursor: 'ew-resize', background: 'var(--surface)' }}
      >
        {clip.proxy === 'ready' ? (
          <img
            src={stripUrl(clip.id)}
            alt=""
            draggable={false}
            style={{ width: '100%', height: '100%', objectFit: 'fill', pointerEvents: 'none' }}
          />
        ) : null}
        <HoldBand last={last} reach={reach} />
        <div
          style={{ position: 'absolute', left: 0, top: 0, bottom: 0, width: percent(inFrame), background: '#000000a8' }}
        />
        <div
          style={{
            position: 'absolute',
            right: 0,
            top: 0,
            bottom: 0,
            left: percent(outFrame),
            background: '#000000a8',
          }}
        />
        <div
          style={{
            position: 'absolute',
            top: 0,
            bottom: 0,
            left: percent(inFrame),
            width: 4,
            background: '#fff',
            outline: '1px solid #000',
          }}
        />
        <div
          style={{
            position: 'absolute',
            top: 0,
            bottom: 0,
            left: `calc(${percent(outFrame)} - 4px)`,
            width: 4,
            background: '#fff',
            outline: '1px solid #000',
          }}
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
          }}
        />
      </div>
      <View className="flex-row items-center">
        <IconButton
          label={playing ? 'Pause' : 'Play'}
          icon={playing ? Pause : Play}
          onPress={() => set({ playing: !playing })}
          disabled={clip.proxy !== 'ready'}
        />
        <IconButton label="One frame back" icon={StepBack} onPress={() => go(frame - 1)} />
        <IconButton label="One frame on" icon={StepForward} onPress={() => go(frame + 1)} />
        <View className="min-w-0 flex-1 items-center">
          <Txt testID="time">{timeText(frame, fps(facts))}</Txt>
          {/* One line: where there is no room for both, the clip's length gives way to the depth. */}
          <View className="h-[20px] w-full flex-row flex-wrap justify-center gap-x-2 overflow-hidden">
            {depth === null ? null : <Txt size="sm">{`${depth.toFixed(1)} m deep`}</Txt>}
            <Txt size="sm" quiet>
              of {timeText(last + 1, fps(facts))}
            </Txt>
          </View>
        </View>
        <IconButton
          label="Keyframes of the step in hand"
          icon={Diamond}
          pressed={keying}
          className={keying ? 'bg-raised' : ''}
          onPress={() => set({ keying: keying ? null : '' })}
        />
        <IconButton
          label="Set in to this frame"
          icon={ChevronFirst}
          onPress={() => void trim({ inFrame: Math.min(frame, outFrame) })}
        />
        <IconButton
          label="Set out to this frame"
          icon={ChevronLast}
          onPress={() => void trim({ outFrame: Math.max(frame, inFrame) })}
        />
      </View>
    </View>
  );
}
