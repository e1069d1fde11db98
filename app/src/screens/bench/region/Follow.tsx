import { useEffect, useRef, useState } from 'react';
import { View } from 'react-native';
import { poseAt, poseSchema, type PoseKey, type Shape } from '@inkavo/core/regions/shape';
import { api } from '../../../api/client';
import { shownTrim, useBench } from '../../../state/bench';
import { goTo } from '../../../state/playhead';
import { Button } from '../../../ui/Button';
import { ChevronLeft, ChevronsRight, X } from '../../../ui/icons';
import { Progress } from '../../../ui/Progress';
import { Txt } from '../../../ui/Txt';
import { changeShape, playheadSeconds } from './inHand';

/** Inserts tracked keys into a shape, replacing those between the first and last of them. */
export function withFollowed(shape: Shape, keys: readonly PoseKey[], seconds: number): Shape {
  const [from, to] = [keys[0].seconds - 0.004, keys[keys.length - 1].seconds + 0.004];
  // A static shape has no key time of its own.
  const own = shape.keys.length > 1 ? shape.keys : [{ ...poseAt(shape, seconds), seconds, ease: 'linear' as const }];
  const others = own.filter((k) => k.seconds < from || k.seconds > to);
  return { ...shape, keys: [...others, ...keys].sort((a, b) => a.seconds - b.seconds) };
}

/** Tracks the content of the shape in hand, forwards or backwards from here. */
export function Follow({ shape }: { shape: Shape }) {
  const [share, setShare] = useState<number | null>(null);
  const [note, setNote] = useState('');
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);
  const follow = async (to: 'in' | 'out'): Promise<void> => {
    const state = useBench.getState();
    const { opened, frame } = state;
    if (!opened) return;
    const trim = shownTrim(state);
    const end = to === 'out' ? trim.outFrame : trim.inFrame;
    if (end === frame) return setNote(to === 'out' ? 'This is the last frame.' : 'This is the first frame.');
    const seconds = playheadSeconds();
    const control = new AbortController();
    stop.current = control;
    setNote('');
    setShare(0);
    try {
      const pose = poseSchema.parse(poseAt(shape, seconds));
      const found = await api.follow(
        opened.clip.id,
        { kind: shape.kind, pose, from: frame, to: end },
        { signal: control.signal, onProgress: setShare },
      );
      if (useBench.getState().opened?.clip.id !== opened.clip.id) return;
      changeShape(shape.id, (s) => withFollowed(s, found.keys, seconds));
      const followed = Math.abs(found.frame - frame);
      setNote(
        found.lost
          ? `${found.lost} Sure for ${followed} frames: mend it there and go on.`
          : `Followed over ${followed} frames, ${found.keys.length} keys.`,
      );
      if (found.lost) goTo(found.frame);
    } catch (error) {
      if (!control.signal.aborted) setNote((error as Error).message);
    } finally {
      setShare(null);
      stop.current = null;
    }
  };
  if (share !== null)
    return (
      <View className="h-[48px] flex-row items-center gap-2 px-2">
        <View className="flex-1">
          <Progress value={share} label="Following" />
        </View>
        <Button title="Stop" icon={X} onPress={() => stop.current?.abort()} />
      </View>
    );
  return (
    <>
      <View className="h-[48px] flex-row items-center gap-2 px-2">
        <Button
          title="Follow back"
          icon={ChevronLeft}
          className="flex-1 px-2"
          disabled={shape.kind === 'gradient'}
          onPress={() => void follow('in')}
        />
        <Button
          title="Follow from here"
          icon={ChevronsRight}
          className="flex-1 px-2"
          disabled={shape.kind === 'gradient'}
          onPress={() => void follow('out')}
        />
      </View>
      {note ? (
        <Txt size="sm" role="status" className="px-3" numberOfLines={2}>
          {note}
        </Txt>
      ) : null}
    </>
  );
}
