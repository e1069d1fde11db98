import { useEffect } from 'react';
import { View } from 'react-native';
import { useBench } from '../../state/bench';
import { useBackCloses } from '../../ui/backCloses';
import { IconButton } from '../../ui/Button';
import { ONLY_HEARD, Txt } from '../../ui/Txt';
import { togglePlay } from './proxyJob';
import { Eye, Minimize, Pause, Play } from '../../ui/icons';

/** Gives the picture the whole window, and the window the whole screen if the browser supports it. */
export function enterFull(): void {
  useBench.getState().set({ full: true });
  // Phone browsers may lack full screen for pages: the window alone suffices.
  void document.documentElement.requestFullscreen?.().catch(() => undefined);
}

export function leaveFull(): void {
  useBench.getState().set({ full: false });
  if (document.fullscreenElement) void document.exitFullscreen().catch(() => undefined);
}

/** Actions while the picture fills the window. */
export function FullBar({ name, playable }: { name: string; playable: boolean }) {
  const full = useBench((s) => s.full);
  const playing = useBench((s) => s.playing);
  const untouched = useBench((s) => s.untouched);
  const { set } = useBench.getState();
  useBackCloses(full, leaveFull, false);
  useEffect(() => {
    const changed = (): void => {
      if (!document.fullscreenElement) useBench.getState().set({ full: false });
    };
    const escape = (e: KeyboardEvent): void => {
      if (e.key === 'Escape' && useBench.getState().full) leaveFull();
    };
    document.addEventListener('fullscreenchange', changed);
    window.addEventListener('keydown', escape);
    return () => {
      document.removeEventListener('fullscreenchange', changed);
      window.removeEventListener('keydown', escape);
    };
  }, []);
  if (!full) return null;
  return (
    <View
      className="absolute bottom-2 right-2 z-20 flex-row rounded border-stroke border-edge bg-surface"
      testID="full-bar"
    >
      <Txt role="heading" aria-level={1} style={ONLY_HEARD}>
        {name}
      </Txt>
      <IconButton
        label={playing ? 'Pause' : 'Play'}
        icon={playing ? Pause : Play}
        className={playable ? '' : 'opacity-40'}
        onPress={togglePlay}
      />
      <IconButton
        label="As recorded"
        icon={Eye}
        pressed={untouched}
        className={untouched ? 'bg-raised' : ''}
        onPress={() => set({ untouched: !untouched })}
      />
      <IconButton label="Leave full screen" icon={Minimize} onPress={leaveFull} />
    </View>
  );
}
