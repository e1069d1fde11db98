import { useEffect, useState } from 'react';
import { ActivityIndicator, Image, View } from 'react-native';
import { sidesOf } from '@inkavo/core/model/change';
import { joined, type StepLists } from '@inkavo/core/model/lists';
import { mergeLists, type Clash, type Side } from '@inkavo/core/model/merge';
import type { Step } from '@inkavo/core/model/grade';
import { strengthInWords, summaryOf } from '@inkavo/core/report/stepsInWords';
import { stepKind } from '@inkavo/core/steps';
import { isKeyframed } from '@inkavo/core/regions/keyframes';
import { api } from '../api/client';
import { untilAnswered } from '../api/untilAnswered';
import { deviceLog, type Entry } from '../state/deviceLog';
import { useKeep } from '../state/keeper';
import { answerQuestion } from '../state/outbox';
import { Button } from '../ui/Button';
import { Trouble } from '../ui/Note';
import { Sheet } from '../ui/Sheet';
import { Txt } from '../ui/Txt';

/** Width in pixels of each of the two pictures. */
const WIDTH = 480;

const SIDES: { side: Side; title: string; use: string }[] = [
  { side: 'mine', title: 'Made here', use: 'Use mine' },
  { side: 'theirs', title: 'Made elsewhere', use: 'Use the other' },
];

/** Asks which of two conflicting changes of the same steps wins, with both pictures for comparison. */
export function QuestionSheet() {
  const question = useKeep((s) => s.question);
  return question?.asked ? <Question key={question.id} entry={question} asked={question.asked} /> : null;
}

function Question({ entry, asked }: { entry: Entry; asked: NonNullable<Entry['asked']> }) {
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const answer = async (side: Side): Promise<void> => {
    setBusy(true);
    try {
      await answerQuestion(entry, side);
    } catch (error) {
      setTrouble((error as Error).message);
      setBusy(false);
    }
  };
  const theirs = asked.theirs.lists;
  const { base, next } = sidesOf(entry.change, theirs);
  // Later edits belong to it.
  const mine = deviceLog
    .ofClip(entry.clipId)
    .filter((e) => e.at > entry.at)
    .reduce((lists, e) => sidesOf(e.change, lists).next, next);
  const later = (): void => useKeep.setState({ question: null });
  return (
    <Sheet title="Changed in two places" onClose={later}>
      <Txt quiet>
        {entry.clipName}: the same was changed here and elsewhere since. Choose which counts; everything else of both is
        kept.
      </Txt>
      {trouble ? <Trouble text={trouble} /> : null}
      <View className="flex-row gap-3">
        {SIDES.map(({ side, title, use }) => (
          <View key={side} className="min-w-0 flex-1 gap-2" role="group" aria-label={title}>
            <Txt bold>{title}</Txt>
            <Preview entry={entry} lists={mergeLists(base, mine, theirs, side).lists} />
            {asked.clashes.map((clash) => (
              <Txt size="sm" key={keyOf(clash)}>
                {wordsOf(withLatest(clash, mine), side)}
              </Txt>
            ))}
            <View className="flex-1" />
            <Button
              title={use}
              look={side === 'mine' ? 'strong' : 'plain'}
              disabled={busy}
              onPress={() => void answer(side)}
              testID={`use-${side}`}
            />
          </View>
        ))}
      </View>
      <Txt size="sm" quiet>
        Until then your change stays on this device, and nothing here is stored on the server.
      </Txt>
    </Sheet>
  );
}

function Preview({ entry, lists }: { entry: Entry; lists: StepLists }) {
  const [shown, setShown] = useState<string | { failed: string } | null>(null);
  const steps = JSON.stringify(joined(lists));
  const { clipId, frame } = entry;
  useEffect(() => {
    let url: string | undefined;
    const asked = { steps: JSON.parse(steps) as Step[], frame, width: WIDTH };
    const cancel = untilAnswered(() => api.preview(clipId, asked), {
      answered(blob) {
        url = URL.createObjectURL(blob);
        setShown(url);
      },
      failed: (error) => setShown({ failed: error.message }),
    });
    return () => {
      cancel();
      if (url) URL.revokeObjectURL(url);
    };
  }, [clipId, frame, steps]);
  return (
    <View className="aspect-video w-full items-center justify-center overflow-hidden rounded bg-surround">
      {shown === null ? <ActivityIndicator color="var(--ink)" accessibilityLabel="Making the picture" /> : null}
      {typeof shown === 'string' ? (
        <Image source={{ uri: shown }} style={{ width: '100%', height: '100%' }} resizeMode="contain" alt="" />
      ) : shown ? (
        <Txt size="sm">No picture: {shown.failed}</Txt>
      ) : null}
    </View>
  );
}

/** A conflict with the current local state of the step. */
const withLatest = (clash: Clash, mine: StepLists): Clash =>
  clash.of === 'step' ? { ...clash, mine: mine[clash.owner].find((s) => s.id === clash.id) ?? null } : clash;

const keyOf = (clash: Clash): string => `${clash.of}-${clash.of === 'order' ? clash.owner : clash.id}`;

/** Describes one side's change. */
function wordsOf(clash: Clash, side: Side): string {
  if (clash.of === 'order') return `Order of the ${clash.owner}’s steps`;
  if (clash.of === 'override') {
    const here = clash[side];
    if (!here) return 'A step it inherits: as it is there';
    if (here.params) return 'A step it inherits: changed only here';
    if (here.on && (here.strength ?? 1) === 1) return 'A step it inherits: taken over here';
    return here.on === false
      ? 'A step it inherits: left out here'
      : `A step it inherits: at ${Math.round(100 * (here.strength ?? 1))} % here`;
  }
  const [step, other] = [clash[side], clash.mine ?? clash.theirs];
  const title = step?.label || stepKind((step ?? other!).kind).title;
  if (!step) return `${title}: removed`;
  if (!step.on) return `${title}: off`;
  if (Object.values(step.params).some(isKeyframed)) return `${title}: changes over the clip`;
  return `${title}: ${summaryOf(step)}${strengthInWords(step.strength)}`;
}
