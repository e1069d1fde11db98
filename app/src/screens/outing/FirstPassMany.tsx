import { useState } from 'react';
import { View } from 'react-native';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { CLASSES } from '@inkavo/core/reading/estimate';
import { SETTING_TITLES, SETTINGS, type Setting } from '@inkavo/core/reading/settings';
import { api } from '../../api/client';
import { act } from '../../state/commands';
import { firstPassRuns, type FirstPassRun, type Read } from '../../state/firstPassRuns';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { FOUND } from '../firstPass';
import { many, RunActions, RunState, RunStrip, type StripProps } from './runParts';

const tallied = (clips: readonly Read[]): string =>
  CLASSES.flatMap((found) => {
    const n = clips.filter((c) => c.found === found).length;
    // After conversion, nothing else is wrong.
    const to = found === 'good' ? 'to convert' : `like ${FOUND[found]}`;
    return n ? [`${n} ${to}`] : [];
  }).join(', ');

/** Summary of the findings before they are taken: nobody looks at each of many pictures first. */
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

/** The current result of a run. */
function resultsOf({ clips, found: read, failed }: FirstPassRun, now: readonly ListedClip[]) {
  const faulty = read.filter((c) => c.change);
  const untouched = new Map(now.filter((c) => c.work === 0).map((c) => [c.id, c.look]));
  const isFresh = ({ id, look }: Read): boolean => untouched.get(id) === look;
  return {
    done: read.length + failed.length,
    all: clips.length,
    good: read.length - faulty.length,
    /** Clips whose proposals can be taken. */
    made: faulty.filter((c) => c.likely && isFresh(c)),
    unsure: faulty.filter((c) => !c.likely && isFresh(c)),
    /** Removed since, or their steps changed since they were read. */
    changed: faulty.filter((c) => !isFresh(c)),
  };
}

const progressText = ({ done, all, made, good }: ReturnType<typeof resultsOf>): string =>
  `${done} of ${all} read: ${many(made.length)} to mend, ${good} good as ${good === 1 ? 'it is' : 'they are'}.`;

/** Takes the proposals as one undoable change; false: it failed, with a message shown. */
async function take(outingId: string, made: readonly Read[]): Promise<boolean> {
  const what = `first pass on ${made.length === 1 ? 'a clip' : many(made.length)}`;
  const steps = made.map(({ id, change }) => ({ on: 'steps' as const, id, ...change! }));
  const undone = steps.map(({ from, to, ...step }) => ({ ...step, from: to, to: from }));
  const taken = await act({ place: outingId, what, done: steps, undone }, `Taken: ${what}.`);
  if (taken) firstPassRuns.drop(outingId);
  return taken;
}

interface Props {
  outingId: string;
  /** All clips of the outing. */
  all: readonly ListedClip[];
  onDone(): void;
  onClose(): void;
}

/** The current or last run: progress, findings, and taking them. */
function Run({ outingId, run, all, onDone, onClose }: Props & { run: FirstPassRun }) {
  const results = resultsOf(run, all);
  const { made, unsure, changed } = results;
  return (
    <Sheet title="First pass on each" onClose={onClose}>
      <Txt>Every clip is read whole, and what would mend it becomes ordinary steps.</Txt>
      <RunState runs={firstPassRuns} outingId={outingId} text={progressText(results)} />
      <Findings made={made} unsure={unsure} />
      {changed.length ? (
        <Txt>
          Removed since, or their steps have changed: {changed.map((c) => c.name).join(', ')}. There nothing is done.
        </Txt>
      ) : null}
      <RunActions
        runs={firstPassRuns}
        outingId={outingId}
        done={made.length ? 'Drop what was found' : 'Done: nothing to take'}
        onDropped={onClose}
      >
        {made.length ? (
          <Button
            title={`Take them: ${many(made.length)}`}
            look="strong"
            onPress={() => void take(outingId, made).then((taken) => taken && onDone())}
          />
        ) : null}
      </RunActions>
    </Sheet>
  );
}

/**
 * A first pass on several clips, taken as one undoable change. Clips with effective steps are left alone, and so are
 * those without faults or with uncertain findings. The setting of each camera can be chosen first; it is remembered. A
 * run in progress, or not yet taken, is shown instead of a new one.
 */
export function FirstPassMany({
  clips,
  cameras,
  ...props
}: Props & {
  /** The selected clips. */
  clips: readonly ListedClip[];
  /** All clips of the outing. */
  cameras: readonly Camera[];
}) {
  const { outingId, onClose } = props;
  const run = firstPassRuns.use((s) => s.runs[outingId]);
  const fresh = clips.filter((c) => c.work === 0);
  const asked = cameras.filter((camera) => fresh.some((c) => c.cameraId === camera.id));
  /** Settings chosen here, by camera. */
  const [answers, setAnswers] = useState<ReadonlyMap<string, Setting>>(new Map());
  const settingOf = ({ id, setting }: Camera): Setting | null => answers.get(id) ?? setting ?? null;
  const [beginning, setBeginning] = useState(false);
  const begin = async (): Promise<void> => {
    setBeginning(true);
    const notKept: string[] = [];
    for (const [id, setting] of answers)
      await api.changeCamera(id, { setting }).catch((error: Error) => {
        const name = cameras.find((c) => c.id === id)!.name;
        notKept.push(`${name}: the answer is used here, but was not kept. ${error.message}`);
      });
    const settings = new Map(asked.map((c) => [c.id, settingOf(c)]));
    const toRead = fresh.map(({ id, name, cameraId }) => ({ id, name, setting: settings.get(cameraId) ?? null }));
    firstPassRuns.begin(outingId, toRead, notKept);
  };
  if (run) return <Run run={run} {...props} />;
  const skipped = clips.length - fresh.length;
  return (
    <Sheet title="First pass on each" onClose={onClose}>
      <Txt>
        Every clip is read whole, and what would mend it becomes ordinary steps.
        {asked.length ? ' Where a camera’s clips were filmed, if you say it, is remembered for it.' : ''}
        {skipped
          ? ` ${many(skipped)} with work in ${skipped === 1 ? 'it stays as it is' : 'them stay as they are'}.`
          : ''}
      </Txt>
      {asked.length ? <Txt bold>Where was it filmed?</Txt> : null}
      {asked.map((camera) => (
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
      <Button
        title={fresh.length ? `Read ${many(fresh.length)}` : 'All have work in them'}
        look="strong"
        disabled={fresh.length === 0 || beginning}
        onPress={() => void begin()}
      />
    </Sheet>
  );
}

/** A first pass on several clips in progress, or not yet taken, shown below the clips. */
export function FirstPassStrip({ outingId, all, onOpen }: StripProps) {
  const text = (run: FirstPassRun): string => progressText(resultsOf(run, all));
  return <RunStrip runs={firstPassRuns} outingId={outingId} title="First pass" text={text} onOpen={onOpen} />;
}
