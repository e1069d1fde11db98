import { useEffect, useRef, useState } from 'react';
import { ActivityIndicator, Pressable, View } from 'react-native';
import { fps } from '@inkavo/core/model/facts';
import type { Step } from '@inkavo/core/model/grade';
import { joined, type StepLists } from '@inkavo/core/model/lists';
import type { HoldReport } from '@inkavo/core/reading/holdCheck';
import type { HoldMend } from '@inkavo/core/reading/tryMends';
import { api } from '../../api/client';
import { useBench } from '../../state/bench';
import { bringIntoSight } from '../../ui/bringIntoSight';
import { Button } from '../../ui/Button';
import { ChoiceList } from '../../ui/Choice';
import { Gauge } from '../../ui/icons';
import { Trouble } from '../../ui/Note';
import { Progress } from '../../ui/Progress';
import { Txt } from '../../ui/Txt';
import { PictureSheet } from './PictureSheet';
import { OfferFooter, useOffer } from './offer';
import { timeText } from './timeText';

/** Checks the graded clip over its whole length, and offers mends. */
export function HoldSheet({ onClose }: { onClose(): void }) {
  const hold = useBench((s) => s.hold);
  const lists = useBench((s) => s.lists);
  const [state, setState] = useState<{ share: number | null; trouble: string | null }>({ share: null, trouble: null });
  const running = useRef<AbortController | null>(null);
  // A check is cancelled with its sheet; another clip may be open when it would end.
  useEffect(
    () => () => {
      running.current?.abort();
      useBench.getState().set({ untouched: false });
    },
    [],
  );
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
  const mends = hold && !stale ? hold.report.mends : [];
  const [chosen, setChosen] = useState<HoldMend | null>(null);
  const mend = chosen && mends.includes(chosen) ? chosen : null;
  const [without, setWithout] = useState(false);
  useOffer(mend?.steps ?? null, withMend, without);
  // On a phone the footer that a choice opens would cover it.
  const choices = useRef<HTMLElement & View>(null);
  useEffect(() => {
    const chosenOne = mend && choices.current?.querySelector<HTMLElement>('[aria-checked="true"]');
    if (chosenOne) bringIntoSight(chosenOne);
  }, [mend]);
  /** Shows a still frame. */
  const goTo = (frame: number): void => set({ frame, playing: false });
  return (
    <PictureSheet
      title="Hold check"
      onClose={onClose}
      // Without a mend shown, holding the picture shows it as recorded.
      onHold={mend ? setWithout : undefined}
      footer={
        mend ? (
          <OfferFooter
            without={without}
            onWithout={setWithout}
            title="Do this"
            onTake={() => {
              const { lists: now, setClipSteps } = useBench.getState();
              setClipSteps(withMend(now, mend.steps).clip);
              onClose();
            }}
          />
        ) : null
      }
    >
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
          {state.share < 1 ? (
            <Progress label="Measuring the clip" value={state.share} />
          ) : (
            <View role="status" className="flex-row items-center gap-3">
              <ActivityIndicator color="var(--ink)" />
              <Txt>All of it is measured. Trying what would mend it …</Txt>
            </View>
          )}
          <Button title="Stop" onPress={() => running.current?.abort()} />
        </>
      )}
      {hold ? <Report report={hold.report} stale={stale} onGo={goTo} /> : null}
      {mends.length > 0 ? (
        <View ref={choices} className="gap-2">
          <Txt bold>What would mend it</Txt>
          <ChoiceList
            label="What would mend it"
            value={mend && keyOf(mend)}
            options={mends.map((m) => ({ value: keyOf(m), title: m.title, note: m.text }))}
            onChange={(key) => {
              const next = mends.find((m) => keyOf(m) === key)!;
              setChosen(next);
              setWithout(false);
              goTo(next.frame);
            }}
          />
          <Txt size="sm" quiet>
            {mend
              ? 'The picture shows it at the worst frame; hold it to see it without. Undo brings back what you have now.'
              : 'Choose one to see it on the picture before it is done.'}
          </Txt>
        </View>
      ) : null}
    </PictureSheet>
  );
}

/** Different troubles may be mended by changes of the same name. */
const keyOf = ({ kind, title }: HoldMend): string => `${kind}: ${title}`;

/** The clip's own steps with a mend applied. */
const withMend = (lists: StepLists, steps: readonly Step[]): StepLists => {
  const inherited = new Set([...lists.camera, ...lists.outing].map((s) => s.id));
  const own = new Set(lists.clip.map((s) => s.id));
  return { ...lists, clip: steps.filter((s) => own.has(s.id) || !inherited.has(s.id)) };
};

function Report({ report, stale, onGo }: { report: HoldReport; stale: boolean; onGo(frame: number): void }) {
  const rate = fps(useBench((s) => s.opened)!.clip.facts);
  const frame = useBench((s) => s.frame);
  const { moments, troubles } = report;
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
          onPress={() => onGo(t.worstFrame)}
          className={`min-h-[48px] rounded border-stroke bg-surface px-3 py-2 active:opacity-60 ${frame === t.worstFrame ? 'border-ink' : 'border-edge'}`}
        >
          <Txt size="sm" quiet>
            {timeText(t.fromFrame, rate)} – {timeText(t.toFrame, rate)}, worst at {timeText(t.worstFrame, rate)}
          </Txt>
          <Txt>{t.text}</Txt>
        </Pressable>
      ))}
    </View>
  );
}
