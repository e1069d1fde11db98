import { useEffect, useState } from 'react';
import { ActivityIndicator, Pressable, View } from 'react-native';
import type { Explanation, FirstPass, Proposal } from '@inkavo/core/reading/firstPass';
import { proposeNoise } from '@inkavo/core/reading/proposeNoise';
import { asksSource } from '@inkavo/core/program/source';
import { strengthInWords } from '@inkavo/core/report/stepsInWords';
import { SETTING_TITLES, SETTINGS, type Setting } from '@inkavo/core/reading/settings';
import type { Step } from '@inkavo/core/model/grade';
import { stepKind } from '@inkavo/core/steps';
import { api, isUnanswered } from '../../api/client';
import { untilAnswered } from '../../api/untilAnswered';
import { useBench } from '../../state/bench';
import { stepsBeside, takeSteps, type OwnedStep } from '../../state/stepLists';
import { joined, type StepLists } from '@inkavo/core/model/lists';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Check } from '../../ui/icons';
import { Trouble } from '../../ui/Note';
import { Progress } from '../../ui/Progress';
import { Txt } from '../../ui/Txt';
import { FOUND, guessOf } from '../firstPass';
import { PictureSheet } from './PictureSheet';
import { OfferFooter, useOffer } from './offer';
import { useSummary } from './useSummary';

/** The kind of clip found, in a sentence. */
function verdict({ found, likelihood, proposals }: Explanation): string {
  if (proposals.length === 0) return 'Nothing to mend: range, white and colour of this clip are as they should be.';
  if (found === 'good') return `Once it is converted, nothing else seems wrong, ${percent(likelihood)} sure.`;
  return `It looks like ${FOUND[found]}, ${percent(likelihood)} sure.`;
}

const percent = (v: number): string => `${Math.min(99, Math.round(100 * v))} %`;

/** Proposed noise reduction, or a message in its place. */
interface NoiseOffer {
  proposal: Proposal | null;
  note?: string;
}

/**
 * Measures whether noise would be clearly visible after an explanation's steps. Arrives after the answer, which does
 * not wait for it.
 */
function useNoiseOffer(explanation: Explanation | undefined): NoiseOffer {
  // Cached by explanation.
  const [found, setFound] = useState<ReadonlyMap<Explanation, NoiseOffer>>(new Map());
  const isMeasured = explanation !== undefined && found.has(explanation);
  useEffect(() => {
    const { opened, lists } = useBench.getState();
    const own = joined(lists);
    // Already reduced noise is not reported.
    if (!explanation || isMeasured || !opened || asksSource(own)) return;
    const keep = (offer: NoiseOffer): void => setFound((old) => new Map(old).set(explanation, offer));
    const converts = own.filter((s) => s.on && s.kind === 'convert');
    const steps = [...converts, ...explanation.proposals.map((p) => p.step)];
    const asked = { steps, frame: opened.clip.referenceFrame, near: true };
    return untilAnswered((signal) => api.noise(opened.clip.id, asked, signal), {
      answered(seen) {
        const proposal = seen && proposeNoise(seen, explanation.proposals.length > 0);
        keep({ proposal, note: seen && !proposal ? 'Its noise is hardly seen.' : undefined });
      },
      failed(error) {
        // Repeated: still measuring.
        if (!isUnanswered(error)) keep({ proposal: null, note: `Its noise was not measured: ${error.message}` });
      },
    });
  }, [explanation, isMeasured]);
  const isTaken = useBench((s) => asksSource(joined(s.lists)));
  if (!explanation || isTaken) return { proposal: null };
  return found.get(explanation) ?? { proposal: null, note: 'Measuring its noise …' };
}

/** A pass whose best explanation is already shown, including its measured noise. */
const withBest = (whole: FirstPass, shown: FirstPass | null): FirstPass => ({
  ...whole,
  explanations: [...(shown?.explanations ?? whole.explanations).slice(0, 1), ...whole.explanations.slice(1)],
});

/** The selected proposals: steps, and the ids of those that are switched off for them. */
interface Taken {
  steps: readonly Step[];
  off: readonly string[];
}
/** The resulting lists. */
const withTaken = (lists: StepLists, { steps, off }: Taken): StepLists => takeSteps(lists, steps, off).lists;

/** Whether a step of the clip is unchanged since an earlier first pass. */
const isOfFirstPass = ({ owner, step }: OwnedStep): boolean => owner === 'clip' && step.proposed === true;
/** Why an already active step is mentioned. */
function actsAlready(one: OwnedStep, offered: boolean): string {
  if (isOfFirstPass(one))
    return `An earlier first pass put it here. ${offered ? 'What is offered was found without it.' : 'Nothing seems to need it now.'}`;
  if (one.owner === 'clip') return 'It acts on this clip already. What is offered was found without it.';
  return `It is of the ${one.owner}, and acts here already; what is offered was found without it. Off in this clip alone.`;
}

interface OfferProps {
  step: Step;
  /** The step's name, if it is not that of its kind. */
  title?: string;
  reason: string;
  on: boolean;
  onToggle(): void;
}

/** A selectable item about a step, with the reason. */
function Offer({ step, title = stepKind(step.kind).title, reason, on, onToggle }: OfferProps) {
  const summary = useSummary(step);
  return (
    <Pressable
      role="checkbox"
      aria-checked={on}
      aria-label={`${title}: ${reason}`}
      onPress={onToggle}
      className="min-h-[52px] flex-row items-start gap-3 rounded border-stroke border-edge bg-surface px-3 py-2"
    >
      <View
        className={`mt-[2px] h-[24px] w-[24px] items-center justify-center rounded border-stroke border-edge ${on ? 'bg-accent' : 'bg-ground'}`}
      >
        {on ? <Check size={18} color="var(--on-accent)" aria-hidden /> : null}
      </View>
      <View className="flex-1">
        <View className="flex-row justify-between gap-3">
          <Txt bold>{title}</Txt>
          <Txt quiet numberOfLines={1} className="shrink">
            {summary}
            {strengthInWords(step.strength)}
          </Txt>
        </View>
        <Txt size="sm">{reason}</Txt>
      </View>
    </Pressable>
  );
}

/** A set with a value toggled. */
function toggled(old: ReadonlySet<string>, value: string): ReadonlySet<string> {
  const next = new Set(old);
  if (!next.delete(value)) next.add(value);
  return next;
}

/**
 * Reads the whole clip and proposes steps, each selectable and with its reason. The setting in which the clip was
 * filmed can be chosen at the top, which rules out explanations; it is remembered for the camera.
 */
export function FirstPassSheet({ onClose }: { onClose(): void }) {
  /** The setting chosen for this camera; null until then. */
  const [setting, setSetting] = useState<Setting | null>(() => useBench.getState().opened?.camera.setting ?? null);
  const [pass, setPass] = useState<FirstPass | null>(null);
  const [chosen, setChosen] = useState(0);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [trouble, setTrouble] = useState<string | null>(null);
  /** Progress of reading, if it takes a while. */
  const [read, setRead] = useState<number | null>(null);
  useEffect(() => {
    const { opened, lists, dive } = useBench.getState();
    const asked = { steps: joined(lists), setting: setting ?? undefined, dive };
    const watch = { onBest: setPass, onProgress: setRead };
    return untilAnswered((signal) => api.firstPass(opened!.clip.id, asked, { signal, ...watch }), {
      again: () => setTrouble(null),
      answered: (whole) => setPass((best) => withBest(whole, best)),
      failed(error) {
        setTrouble(error.message);
        // What has arrived can be taken; no further explanations will come.
        setPass((best) => best && { ...best, awaited: [] });
      },
    });
  }, [setting]);
  const answer = (next: Setting): void => {
    if (next === setting) return;
    setPass(null);
    setRead(null);
    setTrouble(null);
    setChosen(0);
    setLeft(new Set());
    setSetting(next);
    const cameraId = useBench.getState().opened!.camera.id;
    api.changeCamera(cameraId, { setting: next }).then(
      ({ setting: kept }) => {
        // By now another clip may be open, or this one may have changed.
        const { opened, set } = useBench.getState();
        if (opened?.camera.id === cameraId) set({ opened: { ...opened, camera: { ...opened.camera, setting: kept } } });
      },
      (error: Error) => setTrouble(`The answer is used here, but was not kept for the camera: ${error.message}`),
    );
  };
  const explanation = pass?.explanations[chosen];
  const found = explanation?.proposals;
  const { proposal: noise, note } = useNoiseOffer(explanation);
  const [noiseTaken, setNoiseTaken] = useState(false);
  const taken = [...(noise && noiseTaken ? [noise] : []), ...(found ?? []).filter((p) => !left.has(p.step.id))];
  const steps = taken.map((p) => p.step);
  const lists = useBench((s) => s.lists);
  const acting = found ? stepsBeside(lists, steps) : [];
  // If nothing needs to be mended, leftovers of an earlier first pass may be excessive; the user's own steps are not
  // touched.
  const beside = found?.length === 0 ? acting.filter(isOfFirstPass) : taken.length ? acting : [];
  /** Items whose default selection was toggled. */
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set());
  // Selected by default only if something replaces them.
  const isOff = (one: OwnedStep): boolean => (taken.length > 0 && isOfFirstPass(one)) !== turned.has(one.step.id);
  const taking = { steps, off: beside.filter(isOff).map((b) => b.step.id) };
  const offers = found !== undefined && (found.length > 0 || noise !== null || beside.length > 0);
  const isIdleOffer = taken.length === 0 && taking.off.length === 0;
  const [without, setWithout] = useState(false);
  useOffer(isIdleOffer ? null : taking, withTaken, without);
  return (
    <PictureSheet
      title="First pass"
      onClose={onClose}
      onHold={setWithout}
      footer={
        offers ? (
          <OfferFooter
            without={without}
            onWithout={setWithout}
            title={
              isIdleOffer
                ? 'Nothing chosen'
                : taken.length === 0
                  ? 'Switch off'
                  : taken.length === 1
                    ? 'Take this step'
                    : `Take these ${taken.length} steps`
            }
            disabled={isIdleOffer}
            onTake={() => {
              useBench.getState().takeSteps(taking.steps, taking.off);
              onClose();
            }}
          />
        ) : null
      }
    >
      <Txt bold>Where was it filmed?</Txt>
      <Choice
        label="Where was it filmed?"
        value={setting ?? (pass && guessOf(pass))}
        options={SETTINGS.map((value) => ({ value, title: SETTING_TITLES[value] }))}
        onChange={answer}
      />
      {trouble ? <Trouble text={trouble} /> : null}
      {!found && !trouble ? (
        <View className="gap-3 py-3">
          <View className="flex-row items-center gap-3" role="status">
            <ActivityIndicator color="var(--ink)" />
            <Txt>Reading the whole clip …</Txt>
          </View>
          {read === null ? null : <Progress label="Reading the clip" value={read} />}
        </View>
      ) : null}
      {explanation ? (
        <View className="flex-row flex-wrap items-center gap-2">
          <Txt role="status" className="flex-1">
            {verdict(explanation)}
          </Txt>
          {pass.explanations.map((other, i) =>
            i === chosen ? null : (
              <Button
                key={other.found}
                title={`or: ${FOUND[other.found]}`}
                onPress={() => {
                  setChosen(i);
                  setLeft(new Set());
                }}
              />
            ),
          )}
          {pass.awaited.map((other) => (
            <Button key={other} title={`or: ${FOUND[other]} …`} disabled />
          ))}
        </View>
      ) : null}
      {found?.map((p) => (
        <Offer
          key={p.step.id}
          {...p}
          on={!left.has(p.step.id)}
          onToggle={() => setLeft((old) => toggled(old, p.step.id))}
        />
      ))}
      {noise ? <Offer {...noise} on={noiseTaken} onToggle={() => setNoiseTaken(!noiseTaken)} /> : null}
      {beside.map((one) => (
        <Offer
          key={one.step.id}
          step={one.step}
          title={`Switch off: ${one.step.label ?? stepKind(one.step.kind).title}`}
          reason={actsAlready(one, taken.length > 0)}
          on={isOff(one)}
          onToggle={() => setTurned((old) => toggled(old, one.step.id))}
        />
      ))}
      {note ? (
        <Txt size="sm" quiet role="status">
          {note}
        </Txt>
      ) : null}
      {offers ? (
        <Txt size="sm" quiet>
          The picture shows them; hold it to see it without. They are ordinary steps: change them, weaken them or switch
          them off. Nothing of what you did is lost; undo brings it back.
        </Txt>
      ) : null}
    </PictureSheet>
  );
}
