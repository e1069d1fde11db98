import { useEffect, useRef, useState } from 'react';
import { View } from 'react-native';
import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { CLASSES, type ClipClass } from '@inkavo/core/reading/estimate';
import { SETTING_TITLES, SETTINGS, type Setting } from '@inkavo/core/reading/settings';
import { stepKind } from '@inkavo/core/steps';
import { api } from '../../api/client';
import { act } from '../../state/commands';
import { listsOf } from '../../state/lists';
import { stepsBeside, takeSteps } from '../../state/stepLists';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Progress } from '../../ui/Progress';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { FOUND, isLikely } from '../firstPass';

/** A clip that was read, and what would be done with it. */
interface Read {
  id: string;
  name: string;
  found: ClipClass;
  /** What it seems to be is likelier than all else together. */
  likely: boolean;
  /** Its own steps as they are, and as they would be; the same where there is nothing to mend. */
  from: Step[];
  to: Step[];
  /** What its camera or its outing has, which would go on acting beside. */
  beside: string[];
}

const many = (n: number): string => `${n} clip${n === 1 ? '' : 's'}`;
const tallied = (clips: readonly Read[]): string =>
  CLASSES.flatMap((found) => {
    const n = clips.filter((c) => c.found === found).length;
    // Once they are converted, nothing else is wrong.
    const to = found === 'good' ? 'to convert' : `like ${FOUND[found]}`;
    return n ? [`${n} ${to}`] : [];
  }).join(', ');

/** What was found, before it is taken: nobody sees each of many pictures first. */
function Findings({ made, unsure }: { made: readonly Read[]; unsure: readonly Read[] }) {
  const beside = made.filter((c) => c.beside.length);
  const tally = tallied(made);
  return (
    <>
      {tally ? <Txt>To mend: {tally}.</Txt> : null}
      {unsure.length ? (
        <Txt>
          Not sure of {unsure.map((c) => c.name).join(', ')}: {unsure.length === 1 ? 'it stays' : 'they stay'} as{' '}
          {unsure.length === 1 ? 'it is' : 'they are'}. A first pass on the bench shows what is likeliest.
        </Txt>
      ) : null}
      {beside.length ? (
        <Txt>
          Steps of camera or outing go on acting in {many(beside.length)}, and were not reckoned with:{' '}
          {[...new Set(beside.flatMap((c) => c.beside))].join(', ')}.
        </Txt>
      ) : null}
    </>
  );
}

/**
 * A first pass on each of several clips: what it proposes is taken, as one thing to undo. Clips with steps that do
 * something are left alone, and so are those in which it finds nothing to mend, or is not sure of what it finds. Where the
 * clips of each camera were filmed can be said first; it is remembered for the camera.
 */
export function FirstPassMany({
  clips,
  cameras,
  onDone,
  onClose,
}: {
  clips: readonly ListedClip[];
  /** Those of the outing. */
  cameras: readonly Camera[];
  onDone(): void;
  onClose(): void;
}) {
  const fresh = clips.filter((c) => c.work === 0);
  const asked = cameras.filter((camera) => fresh.some((c) => c.cameraId === camera.id));
  /** What was answered here, by camera. */
  const [answers, setAnswers] = useState<ReadonlyMap<string, Setting>>(new Map());
  const [going, setGoing] = useState(false);
  const [read, setRead] = useState<readonly Read[]>([]);
  const [failed, setFailed] = useState<string[]>([]);
  const [notKept, setNotKept] = useState<string[]>([]);
  const controller = useRef<AbortController | null>(null);
  useEffect(() => () => controller.current?.abort(), []);
  const settingOf = ({ id, setting }: Camera): Setting | null => answers.get(id) ?? setting ?? null;
  const readOne = async ({ id, name }: ListedClip, signal: AbortSignal): Promise<Read> => {
    const opened = await api.clip(id);
    const lists = listsOf(opened);
    const setting = settingOf(opened.camera) ?? undefined;
    const pass = await api.firstPass(id, { steps: joined(lists), setting }, { signal });
    const [{ found, proposals }] = pass.explanations;
    const steps = proposals.map((p) => p.step);
    return {
      id,
      name,
      found,
      likely: isLikely(pass),
      from: lists.clip,
      to: steps.length ? takeSteps(lists, steps).lists.clip : lists.clip,
      beside: steps.length ? stepsBeside(lists, steps).map(({ step }) => step.label ?? stepKind(step.kind).title) : [],
    };
  };
  const begin = async (): Promise<void> => {
    setGoing(true);
    controller.current = new AbortController();
    const { signal } = controller.current;
    for (const [id, setting] of answers) {
      await api.changeCamera(id, { setting }).catch((error: Error) => {
        const name = cameras.find((c) => c.id === id)!.name;
        setNotKept((list) => [...list, `${name}: the answer is used here, but was not kept. ${error.message}`]);
      });
    }
    for (const clip of fresh) {
      if (signal.aborted) break;
      try {
        const one = await readOne(clip, signal);
        setRead((list) => [...list, one]);
      } catch (error) {
        if (signal.aborted) break;
        setFailed((list) => [...list, `${clip.name}: ${(error as Error).message}`]);
      }
    }
    setGoing(false);
  };
  const faulty = read.filter((c) => c.to !== c.from);
  const made = faulty.filter((c) => c.likely);
  const unsure = faulty.filter((c) => !c.likely);
  const take = async (): Promise<void> => {
    const what = `first pass on ${made.length === 1 ? 'a clip' : many(made.length)}`;
    const command = {
      place: clips[0].outingId,
      what,
      done: made.map(({ id, from, to }) => ({ on: 'steps' as const, id, from, to })),
      undone: made.map(({ id, from, to }) => ({ on: 'steps' as const, id, from: to, to: from })),
    };
    if (await act(command, `Taken: ${what}.`)) onDone();
  };
  const skipped = clips.length - fresh.length;
  const begun = going || read.length + failed.length > 0;
  return (
    <Sheet title="First pass on each" onClose={onClose}>
      <Txt>
        Every clip is read whole, and what would mend it becomes ordinary steps.
        {asked.length && !begun ? ' Where a camera’s clips were filmed, if you say it, is remembered for it.' : ''}
        {skipped
          ? ` ${many(skipped)} with work in ${skipped === 1 ? 'it stays as it is' : 'them stay as they are'}.`
          : ''}
      </Txt>
      {begun ? null : asked.length ? <Txt bold>Where was it filmed?</Txt> : null}
      {begun
        ? null
        : asked.map((camera) => (
            <View key={camera.id} className="gap-1">
              <Txt size="sm">
                {camera.name}, {many(fresh.filter((c) => c.cameraId === camera.id).length)}
              </Txt>
              <Choice
                label={`Where was it filmed? ${camera.name}`}
                value={settingOf(camera)}
                options={SETTINGS.map((value) => ({ value, title: SETTING_TITLES[value] }))}
                onChange={(setting) => setAnswers((old) => new Map(old).set(camera.id, setting))}
              />
            </View>
          ))}
      {begun ? (
        <>
          <Txt role="status">
            {read.length + failed.length} of {fresh.length} read: {many(made.length)} to mend,{' '}
            {read.length - faulty.length} good as they are.
          </Txt>
          <Progress label="Reading the clips" value={(read.length + failed.length) / Math.max(1, fresh.length)} />
          <Findings made={made} unsure={unsure} />
        </>
      ) : null}
      {[...notKept, ...failed].map((text) => (
        <Txt key={text} size="sm">
          {text}
        </Txt>
      ))}
      {going ? (
        <Button title="Stop here" onPress={() => controller.current?.abort()} />
      ) : begun ? (
        <Button
          title={made.length ? `Take them: ${many(made.length)}` : 'Nothing to take'}
          look="strong"
          disabled={made.length === 0}
          onPress={() => void take()}
        />
      ) : (
        <Button
          title={fresh.length ? `Read ${many(fresh.length)}` : 'All have work in them'}
          look="strong"
          disabled={fresh.length === 0}
          onPress={() => void begin()}
        />
      )}
    </Sheet>
  );
}
