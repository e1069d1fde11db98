import { useEffect, useRef } from 'react';
import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { useBench } from '../../state/bench';
import { Pause, Play } from '../../ui/icons';
import { useDrag } from '../../ui/useDrag';
import { togglePlay } from './proxyJob';
import { windSpeed } from './wind';

/** Toggles playback by a tap; dragged sideways it shuttles, faster with distance. */
export function PlayButton({
  facts,
  disabled,
  onWind,
}: {
  facts: MediaFacts;
  /** Nothing can be played yet: a tap explains why. */
  disabled: boolean;
  onWind(speed: number | null): void;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const playing = useBench((s) => s.playing);
  const wound = useRef<{ frame: number; speed: number; at: number; request: number } | null>(null);
  const { set } = useBench.getState();
  const stop = (): void => {
    if (wound.current) cancelAnimationFrame(wound.current.request);
    wound.current = null;
    onWind(null);
  };
  const turn = (now: number): void => {
    const w = wound.current;
    if (!w) return;
    const frame = w.frame + (w.speed * fps(facts) * (now - w.at)) / 1000;
    w.frame = Math.min(facts.frames - 1, Math.max(0, frame));
    w.at = now;
    set({ frame: Math.round(w.frame) });
    w.request = requestAnimationFrame(turn);
  };
  useDrag(ref, {
    onMove: ({ dx }) => {
      if (disabled) return;
      const speed = windSpeed(dx);
      onWind(speed);
      if (wound.current) wound.current.speed = speed;
      else {
        set({ playing: false });
        wound.current = { frame: useBench.getState().frame, speed, at: performance.now(), request: 0 };
        wound.current.request = requestAnimationFrame(turn);
      }
    },
    onEnd: (_p, moved) => (moved ? stop() : togglePlay()),
  });
  useEffect(
    () => () => {
      if (wound.current) cancelAnimationFrame(wound.current.request);
    },
    [],
  );
  const Icon = playing ? Pause : Play;
  return (
    <div
      ref={ref}
      role="button"
      tabIndex={0}
      aria-label={playing ? 'Pause' : 'Play'}
      aria-description="Drag to a side to wind"
      aria-disabled={disabled || undefined}
      onKeyDown={(e) => {
        if (e.key !== 'Enter' && e.key !== ' ') return;
        e.preventDefault();
        togglePlay();
      }}
      style={{
        width: 44,
        height: 44,
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
        opacity: disabled ? 0.35 : 1,
        cursor: 'pointer',
      }}
    >
      <Icon size={22} color="var(--ink)" aria-hidden />
    </div>
  );
}
