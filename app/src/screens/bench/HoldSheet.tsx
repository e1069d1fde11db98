import { useEffect, useRef, useState } from 'react';
import { Pressable, View } from 'react-native';
import { fps } from '@inkavo/core/model/facts';
import type { HoldReport } from '@inkavo/core/reading/holdCheck';
import { api } from '../../api/client';
import { useBench } from '../../state/bench';
import { joined } from '@inkavo/core/model/lists';
import { Button } from '../../ui/Button';
import { Gauge } from '../../ui/icons';
import { Trouble } from '../../ui/Note';
import { Progress } from '../../ui/Progress';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { timeText } from './timeText';

/** Measures the graded clip over its whole length, and offers what would mend it. */
export function HoldSheet({ onClose }: { onClose(): void }) {
  const hold = useBench((s) => s.hold);
  const lists = useBench((s) => s.lists);
  const [state, setState] = useState<{ share: number | null; trouble: string | null }>({ share: null, trouble: null });
  const running = useRef<AbortController | null>(null);
  // Nobody sees the progress of a check whose sheet is closed; the clip may be another one by its end.
  useEffect(() => () => running.current?.abort(), []);
  const { set } = useBench.getState();
  const check = async (): Promise<void> => {
    const controller = new AbortController();
    running.current = controller;
    const { opened, lists: now } = useBench.getState();
    setState({ share: 0, trouble: null });
    try {
      const { report } = await api.holdCheck(
        opened!.clip.id,
        joined(now),
        now.clip.map((s) => s.id),
        {
          signal: controller.signal,
          onProgress: (share) => setState((s) => ({ ...s, share })),
        },
      );
      set({ hold: { report, lists: now } });
      setState({ share: null, trouble: null });
    } catch (error) {
      setState({ share: null, trouble: controller.signal.aborted ? null : (error as Error).message });
    }
  };
  const stale = hold !== null && hold.lists !== lists;
  return (
    <Sheet title="Hold check" onClose={onClose}>
      <Txt quiet>Does the grade hold over the whole clip? Every part of it is measured as graded.</Txt>
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      {state.share === null ? (
        <Button
          look={hold && !stale ? 'plain' : 'strong'}
          icon={Gauge}
          title={hold ? 'Measure again' : 'Measure the whole clip'}
          onPress={() => void check()}
        />
      ) : (
        <>
          <Progress label="Measuring the clip" value={state.share} />
          <Button title="Stop" onPress={() => running.current?.abort()} />
        </>
      )}
      {hold ? <Report report={hold.report} stale={stale} onClose={onClose} /> : null}
    </Sheet>
  );
}

function Report({ report, stale, onClose }: { report: HoldReport; stale: boolean; onClose(): void }) {
  const { opened, set, setClipSteps } = useBench.getState();
  const rate = fps(opened!.clip.facts);
  const { moments, troubles, mends } = report;
  const range = (pick: (m: HoldReport['moments'][number]) => number): string => {
    const values = moments.map(pick);
    const [low, high] = [Math.min(...values), Math.max(...values)].map((v) => Math.round(100 * v));
    return low === high ? `${low} %` : `${low} to ${high} %`;
  };
  return (
    <View className="gap-3" role="status">
      {stale ? <Txt ink="text-warn">The steps have changed since this was measured.</Txt> : null}
      <Txt>
        {`${troubles.length === 0 ? `It holds: ${moments.length} frames measured. ` : ''}Black ${range((m) => m.black)}, white ${range((m) => m.white)}, mean luma ${range((m) => m.level)}, colour ${range((m) => m.chroma)} of the vectorscope.`}
      </Txt>
      {troubles.map((t) => (
        <Pressable
          key={`${t.kind} ${t.fromFrame}`}
          role="button"
          aria-label={`${t.text} Go to the worst frame`}
          onPress={() => {
            set({ frame: t.worstFrame, playing: false });
            onClose();
          }}
          className="min-h-[48px] rounded border-stroke border-edge bg-surface px-3 py-2 active:opacity-60"
        >
          <Txt size="sm" quiet>
            {timeText(t.fromFrame, rate)} – {timeText(t.toFrame, rate)}, worst at {timeText(t.worstFrame, rate)}
          </Txt>
          <Txt>{t.text}</Txt>
        </Pressable>
      ))}
      {mends.map((m) => (
        <View key={m.title} className="flex-row items-center gap-3 rounded border-stroke border-edge px-3 py-2">
          <View className="flex-1">
            <Txt bold>{m.title}</Txt>
            <Txt size="sm">{m.text}</Txt>
          </View>
          <Button
            title="Do it"
            disabled={stale}
            onPress={() => {
              const own = new Set(useBench.getState().lists.clip.map((s) => s.id));
              const inherited = new Set(
                [...useBench.getState().lists.camera, ...useBench.getState().lists.outing].map((s) => s.id),
              );
              setClipSteps(m.steps.filter((s) => own.has(s.id) || !inherited.has(s.id)));
              onClose();
            }}
          />
        </View>
      ))}
    </View>
  );
}
