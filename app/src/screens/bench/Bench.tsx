import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { ActivityIndicator, ScrollView, useWindowDimensions, View } from 'react-native';
import { api, type ClipOpened } from '../../api/client';
import { BenchEngine } from '../../engine/benchEngine';
import { EngineContext } from '../../engine/context';
import { Waveform } from '../../instruments/Waveform';
import { useBench } from '../../state/bench';
import { keeper, useKeep } from '../../state/keeper';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Empty, Trouble } from '../../ui/Note';
import { TopBar } from '../../ui/TopBar';
import { BenchBar } from './BenchBar';
import { layoutBench } from './layout';
import { Picture } from './Picture';
import { ReadingLine } from './ReadingLine';
import { ScrubStrip } from './ScrubStrip';
import { StepSheet } from './StepSheet';
import { StepColumn, StepStrip } from './StepList';
import { Tray, TRAY_HEIGHT } from './Tray';

/** One clip on the bench. */
export function Bench({ clipId }: { clipId: string }) {
  const opened = useBench((s) => (s.opened?.clip.id === clipId ? s.opened : null));
  const [failed, setFailed] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    api.clip(clipId).then(
      (found) => !gone && useBench.getState().open(keeper.begin(found)),
      (error: Error) => !gone && setFailed(error.message),
    );
    return () => {
      gone = true;
      void keeper.flush();
      useBench.setState({ opened: null, playing: false });
    };
  }, [clipId]);

  if (failed) {
    return (
      <View className="flex-1 bg-ground">
        <TopBar title="Bench" back="/" />
        <Empty title="This clip cannot be opened" text={failed} />
      </View>
    );
  }
  if (!opened) {
    return (
      <View className="flex-1 items-center justify-center bg-ground">
        <ActivityIndicator size="large" color="var(--ink)" accessibilityLabel="Opening the clip" />
      </View>
    );
  }
  return <OpenBench key={clipId} opened={opened} />;
}

function OpenBench({ opened }: { opened: ClipOpened }) {
  const { clip, camera, outing } = opened;
  const engine = useRef<BenchEngine | null>(null);
  const window = useWindowDimensions();
  const layout = layoutBench(window, clip.facts, TRAY_HEIGHT);
  const { picture, scopeHeight, wide } = layout;
  const ratio = Math.min(3, globalThis.devicePixelRatio || 1);
  const canvas = useCallback(
    (element: HTMLCanvasElement | null) => {
      if (!element) {
        engine.current?.close();
        engine.current = null;
        return;
      }
      try {
        engine.current = new BenchEngine(element, clip.id);
      } catch (error) {
        useBench.getState().set({ trouble: (error as Error).message });
      }
    },
    [clip.id],
  );
  useEffect(() => {
    if (clip.proxy === 'ready') engine.current?.useProxy();
  }, [clip.proxy, canvas]);
  useEffect(() => {
    const scope = {
      columns: Math.round(picture.width * Math.min(2, ratio)),
      rows: Math.round(scopeHeight * Math.min(2, ratio)),
    };
    engine.current?.resize(picture.width * ratio, scope);
  }, [picture.width, scopeHeight, ratio, canvas]);
  useProxyWatch(opened);

  const shown = (
    <>
      <View className="items-center bg-surround">
        <Picture width={picture.width} height={picture.height} canvas={canvas} />
      </View>
      <ReadingLine />
      <View className="items-center bg-scope">
        <Waveform width={picture.width} height={scopeHeight} />
      </View>
    </>
  );
  return (
    <EngineContext.Provider value={engine}>
      <View role="main" className="flex-1 bg-ground">
        <BenchBar opened={opened} wide={wide} />
        {wide ? (
          <View className="min-h-0 flex-1 flex-row">
            <StepColumn cameraName={camera.name} outingName={outing.name} />
            <View className="min-w-0 flex-1 bg-surround">
              {shown}
              <View className="flex-1" />
              <ScrubStrip clip={clip} />
            </View>
            <View className="w-[336px] border-l-stroke border-line bg-ground">
              <View className="p-2">
                <ScopeChoice />
              </View>
              <ScrollView>
                <Tray wide />
              </ScrollView>
            </View>
          </View>
        ) : (
          <>
            {shown}
            <StepStrip />
            <View style={{ minHeight: TRAY_HEIGHT }} className="flex-1">
              <Tray />
            </View>
            <ScrubStrip clip={clip} />
          </>
        )}
        <StepSheet />
        <Troubles />
      </View>
    </EngineContext.Provider>
  );
}

const VIEWS = [
  { value: 'luma', title: 'Luma' },
  { value: 'parade', title: 'Red, green, blue' },
] as const;

/** Which trace lies under the picture. */
function ScopeChoice() {
  const view = useBench((s) => s.scopeView);
  return (
    <Choice
      label="Trace under the picture"
      value={view}
      options={VIEWS}
      onChange={(scopeView) => useBench.getState().set({ scopeView })}
    />
  );
}

/** Takes the proxy into use when it has been made while the clip is open. */
function useProxyWatch({ clip }: ClipOpened): void {
  const { data } = useQuery({ queryKey: ['outing', clip.outingId], queryFn: () => api.outing(clip.outingId) });
  const proxy = data?.clips.find((c) => c.id === clip.id)?.proxy;
  useEffect(() => {
    const { opened, set } = useBench.getState();
    if (proxy && opened && opened.clip.proxy !== proxy) set({ opened: { ...opened, clip: { ...opened.clip, proxy } } });
  }, [proxy]);
}

function Troubles() {
  const trouble = useBench((s) => s.trouble);
  const conflict = useKeep((s) => s.state === 'conflict');
  if (!trouble && !conflict) return null;
  return (
    <View className="absolute left-2 right-2 top-[54px]">
      {conflict ? (
        <Trouble text="The steps of this clip were changed in another window. Which ones should count?">
          <Button title="The other ones" onPress={() => void keeper.resolve(false)} />
          <Button title="Mine" look="strong" onPress={() => void keeper.resolve(true)} />
        </Trouble>
      ) : (
        <Trouble text={trouble!}>
          <Button title="Close" onPress={() => useBench.getState().set({ trouble: null })} />
        </Trouble>
      )}
    </View>
  );
}
