import { useRouter } from 'expo-router';
import { useCallback, useEffect, useRef, useState, type ReactNode } from 'react';
import { ActivityIndicator, ScrollView, useWindowDimensions, View } from 'react-native';
import { api, type ClipOpened } from '../../api/client';
import { untilAnswered } from '../../api/untilAnswered';
import { BenchEngine } from '../../engine/benchEngine';
import { EngineContext } from '../../engine/context';
import { ScopeProvider } from '../../engine/scope';
import { Pad } from '../../instruments/Pad';
import { shownLists, useBench } from '../../state/bench';
import { useDrawing } from '../../state/drawing';
import { withPending } from '../../state/clipKeeper';
import { findStep } from '../../state/stepLists';
import { loadHistory } from '../../state/history';
import { loadKeptFrame } from '../../state/keptFrame';
import { keepView, loadView } from '../../state/lastView';
import { useRegionTool } from '../../state/regions';
import { loadPins } from '../../state/pins';
import { keeper } from '../../state/keeper';
import { dropMessage, tellTrouble } from '../../state/messages';
import { outbox } from '../../state/outbox';
import { Button } from '../../ui/Button';
import { Empty } from '../../ui/Note';
import { TopBar } from '../../ui/TopBar';
import { HelpSheet } from '../HelpSheet';
import { BenchBar } from './BenchBar';
import { useBenchKeys } from './benchKeys';
import { EyeRest } from './Compare';
import { FullBar, leaveFull } from './Full';
import { Hints } from './Hints';
import { Keys, KEYS_HEIGHT } from './Keys';
import { BenchLayoutProvider, fit, layoutBench, WIDE_SIDES } from './layout';
import { Picture } from './Picture';
import { canPlay, useProxyParts, useProxyWatch } from './proxyJob';
import { ReadingLine } from './ReadingLine';
import { ScopeArea, ScopeChoice } from './ScopeArea';
import { ScrubStrip, STRIP_SIDE } from './ScrubStrip';
import { SkipLinks } from './SkipLinks';
import { StepSheet } from './StepSheet';
import { StepColumn, StepStrip } from './StepList';
import { Tray, trayHeight } from './Tray';

/** Horizontal padding of the scrub strip, and of the lane above it. */
const LANE_EDGES = 2 * STRIP_SIDE;
/** Edge of the pad on a wide screen: the width of its column. */
const PAD_WIDE = 334;

/** One clip on the bench. */
export function Bench({ clipId }: { clipId: string }) {
  const router = useRouter();
  const opened = useBench((s) => (s.opened?.clip.id === clipId ? s.opened : null));
  const [failed, setFailed] = useState<string | null>(null);
  /** Number of attempts by a tap. */
  const [attempt, setAttempt] = useState(0);
  const again = (): void => setAttempt((n) => n + 1);
  useEffect(() => {
    const cancel = untilAnswered(() => api.clip(clipId), {
      answered(found) {
        setFailed(null);
        useBench.getState().open(keeper.begin(withPending(found)));
        loadView(clipId);
        useBench.getState().set({ pins: loadPins(clipId) });
        void loadKeptFrame(clipId);
        void loadHistory(clipId);
      },
      failed: ({ message }) => setFailed(message),
    });
    return () => {
      cancel();
      useBench.getState().settle();
      keepView();
      if (document.fullscreenElement) leaveFull();
      void keeper.flush().finally(() => outbox.run());
      keeper.leave();
      for (const key of ['engine', 'frame', 'player', 'strip']) dropMessage(key);
      useBench.setState({ opened: null, playing: false });
    };
  }, [clipId, attempt]);

  if (failed) {
    return (
      <View className="flex-1 bg-ground">
        <TopBar title="Bench" back="last" />
        <Empty title="This clip cannot be opened" text={failed}>
          <Button title="Try again" look="strong" onPress={again} />
          <Button title="Go to the outings" onPress={() => router.replace('/')} />
        </Empty>
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
  const keying = useBench((s) => s.keying !== null);
  const placing = useRegionTool((s) => s.placing);
  const tray = useBench((s) => trayHeight(findStep(shownLists(s), s.inHand)?.step.kind, s.keying !== null, placing));
  const full = useBench((s) => s.full);
  const layout = layoutBench(window, clip.facts, tray, keying ? KEYS_HEIGHT : 0);
  const { form, scopeHeight } = layout;
  const wide = form === 'wide';
  const picture = full ? fit(clip.facts.width / clip.facts.height, window.width, window.height) : layout.picture;
  const [helping, setHelping] = useState(false);
  const view = useBench((s) => s.scopeView);
  const drawing = useDrawing((s) => s.drawing);
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
        tellTrouble('engine', (error as Error).message);
      }
    },
    [clip.id],
  );
  const parts = useProxyParts(clip)?.made;
  useEffect(() => {
    if (clip.proxy === 'ready') engine.current?.useProxy();
    else if (parts) engine.current?.useParts(parts);
  }, [clip.proxy, parts, canvas, drawing]);
  useEffect(() => {
    const scope = {
      columns: Math.round(picture.width * Math.min(2, ratio)),
      rows: Math.round(scopeHeight * Math.min(2, ratio)),
      pad: wide ? PAD_WIDE : view === 'pad' ? Math.round(scopeHeight * Math.min(2, ratio)) : 0,
    };
    engine.current?.resize(picture.width * ratio, scope);
  }, [picture.width, scopeHeight, ratio, wide, view, canvas, drawing]);
  useProxyWatch(opened.clip);

  return (
    <EngineContext.Provider value={engine}>
      <BenchLayoutProvider value={layout}>
        <ScopeProvider>
          <BenchKeys onHelp={() => setHelping(true)} />
          <View role="main" className="flex-1 bg-ground">
            {full ? null : <SkipLinks />}
            {full ? null : <BenchBar opened={opened} wide={wide} onHelp={() => setHelping(true)} />}
            {/* All parts keep their place in the tree: rotating a phone must not reopen its clip. */}
            <View className="min-h-0 flex-1" style={{ flexDirection: form === 'tall' ? 'column' : 'row' }}>
              {wide && !full ? <StepColumn key="steps" cameraName={camera.name} outingName={outing.name} /> : null}
              <View
                key="picture"
                className={`min-w-0 bg-surround ${wide || full ? 'flex-1' : ''}`}
                style={form === 'low' && !full ? { width: layout.column } : undefined}
              >
                <View className={`z-10 items-center bg-surround ${full ? 'flex-1 justify-center' : ''}`}>
                  <Picture width={picture.width} height={picture.height} canvas={canvas} />
                  {full ? null : <Hints />}
                </View>
                {full ? null : (
                  <>
                    <ReadingLine />
                    <View className="items-center bg-scope">
                      <ScopeArea width={picture.width} height={scopeHeight} wide={wide} />
                    </View>
                  </>
                )}
                {wide && !full ? (
                  <>
                    <View className="flex-1" />
                    {keying ? <Keys facts={clip.facts} width={window.width - WIDE_SIDES - LANE_EDGES} /> : null}
                    <ScrubStrip clip={clip} />
                  </>
                ) : null}
              </View>
              {wide ? (
                <View key="pad" className={`w-[336px] border-l-stroke border-line bg-ground ${full ? 'hidden' : ''}`}>
                  <View className="p-2">
                    <ScopeChoice />
                  </View>
                  <Pad size={Math.min(PAD_WIDE, Math.round(window.height * 0.36))} below />
                  <ScrollView>
                    <Tray wide />
                  </ScrollView>
                </View>
              ) : null}
              {wide || full ? null : (
                <View
                  key="tray"
                  className={`min-h-0 min-w-0 flex-1 ${form === 'low' ? 'border-l-stroke border-line' : ''}`}
                >
                  <StepStrip />
                  <TrayRoom height={layout.tray} needed={tray}>
                    {keying ? (
                      <Keys
                        facts={clip.facts}
                        width={window.width - (form === 'low' ? layout.column : 0) - LANE_EDGES}
                      />
                    ) : (
                      <Tray />
                    )}
                  </TrayRoom>
                  <ScrubStrip clip={clip} oneRow={layout.oneRow} />
                </View>
              )}
            </View>
            <FullBar name={clip.name} playable={canPlay(clip)} />
            <StepSheet />
            {helping ? <HelpSheet onClose={() => setHelping(false)} /> : null}
            <EyeRest />
          </View>
        </ScopeProvider>
      </BenchLayoutProvider>
    </EngineContext.Provider>
  );
}

/** Space for the controls of the step in hand; they scroll if they need more. */
function TrayRoom({ height, needed, children }: { height: number; needed: number; children: ReactNode }) {
  if (height >= needed)
    return (
      <View style={{ minHeight: height }} className="flex-1">
        {children}
      </View>
    );
  return (
    <ScrollView className="tray-scrolls min-h-0 flex-1" contentContainerStyle={{ minHeight: needed }}>
      {children}
    </ScrollView>
  );
}

/** The bench's keyboard shortcuts, within reach of the engine. */
function BenchKeys({ onHelp }: { onHelp(): void }) {
  useBenchKeys({ onHelp });
  return null;
}
