import { memo, useCallback, useState, type ReactNode } from 'react';
import { Pressable, ScrollView, View } from 'react-native';
import type { Job, JobsRequest } from '@inkavo/core/model/job';
import { useUploads, type Sending } from '../../api/upload';
import { actOnJobs } from '../../state/actOnJobs';
import { IconButton } from '../../ui/Button';
import { Progress } from '../../ui/Progress';
import { Txt } from '../../ui/Txt';
import { useTapGuard } from '../../ui/useTapGuard';
import { ChevronDown, ChevronRight, RotateCcw, X } from '../../ui/icons';
import { bytesText } from './bringing';
import { APART, intakeRows, type JobGroup } from './intakeRows';
import { onTheWay, secondsForAll, spell, underWay } from './timeLeft';

const WORDS = { import: 'Bringing in', proxy: 'Making the proxy', render: 'Rendering the demo clip' } as const;
type IntakeKind = keyof typeof WORDS;
/** Contents of an outing's list. */
const isIntake = (kind: Job['kind']): kind is IntakeKind => kind in WORDS;
/** Consequence of a failure. */
const MISSING = {
  import: 'was not brought in',
  proxy: 'has no proxy, so it does not play',
  render: 'was not rendered',
} as const;
/** The same for several. */
const GROUPS = {
  import: { waiting: 'files wait', ended: 'files were not brought in' },
  proxy: { waiting: 'proxies wait', ended: 'clips have no proxy, so they do not play' },
  render: { waiting: 'demo clips wait', ended: 'demo clips were not rendered' },
} as const;

/** Number, duration and notes, on one line. */
const line = (...parts: (string | false | null)[]): string => parts.filter(Boolean).join(' · ');
const leftText = (seconds: number | null): string => (seconds === null ? '' : `about ${spell(seconds)} left`);

/**
 * Files being imported: uploaded, copied, read and prepared; and failures with their reasons. Below the clips, so that
 * none moves under a finger when a file is done.
 */
export function Intake({ outingId, jobs }: { outingId: string; jobs: Job[] }) {
  const sending = useUploads((s) => s.sending).filter((s) => s.outingId === outingId);
  const rows = intakeRows(jobs.filter((j) => isIntake(j.kind)));
  const act = useCallback<Act>((what, ids) => actOnJobs(what, ids, 'intake', ['outing', outingId]), [outingId]);
  const guarded = useTapGuard([...sending, ...rows].map((row) => ('key' in row ? row.key : row.id)).join());
  if (sending.length + rows.length === 0) return null;
  const { files, bytes, secondsLeft } = onTheWay(jobs, sending);
  const proxies = underWay(jobs).filter((j) => j.kind === 'proxy');
  return (
    <ScrollView
      role="region"
      aria-label="Coming in"
      className="max-h-[36%] flex-none border-t-stroke border-line bg-surface"
      contentContainerClassName="mx-auto w-full max-w-[1240px] p-3"
    >
      <View ref={guarded} className="gap-2">
        {files > 1 ? (
          <Txt bold>{line(`${files} files coming in`, bytes > 0 && bytesText(bytes), leftText(secondsLeft))}</Txt>
        ) : null}
        {proxies.length > 1 ? (
          <Txt bold>
            {line(`${proxies.length} proxies to be made`, leftText(secondsForAll(proxies)), 'work can begin')}
          </Txt>
        ) : null}
        <SendingRows sending={sending} />
        {rows.map((row) =>
          'jobs' in row ? (
            <JobGroupRow key={row.key} group={row} act={act} />
          ) : (
            <JobRow key={row.id} job={row} act={act} />
          ),
        )}
      </View>
    </ScrollView>
  );
}

/** Acts on jobs. */
type Act = (what: JobsRequest['act'], ids: string[]) => void;

/** Similar jobs in one expandable row. `reason`: why they failed. */
function Group({
  what,
  reason,
  testID,
  buttons,
  rows,
}: {
  what: string;
  reason?: string | null;
  testID?: string;
  buttons: ReactNode;
  rows(): ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const Chevron = open ? ChevronDown : ChevronRight;
  return (
    <>
      <View className="flex-row items-center gap-2" testID={testID}>
        <Pressable
          role="button"
          aria-expanded={open}
          onPress={() => setOpen(!open)}
          className="min-h-[44px] min-w-0 flex-1 flex-row items-center gap-2"
        >
          <View className="min-w-0 flex-1">
            <Txt bold={reason !== undefined}>{what}</Txt>
            {reason ? <Txt>{reason}</Txt> : null}
          </View>
          <Chevron size={22} color="var(--ink)" aria-hidden />
        </Pressable>
        {buttons}
      </View>
      {open ? rows() : null}
    </>
  );
}

function JobGroupRow({ group: { kind, state, jobs }, act }: { group: JobGroup; act: Act }) {
  if (!isIntake(kind)) return null;
  const ids = jobs.map((j) => j.id);
  const n = jobs.length;
  const waits = state === 'waiting';
  return (
    <Group
      what={`${n} ${GROUPS[kind][waits ? 'waiting' : 'ended']}`}
      reason={waits ? undefined : jobs[0].message}
      testID={`intake-${state}`}
      buttons={
        waits ? (
          <IconButton label={`Stop all ${n} that wait`} icon={X} onPress={() => act('stop', ids)} />
        ) : (
          <>
            <IconButton label={`Try all ${n} again`} icon={RotateCcw} onPress={() => act('again', ids)} />
            <IconButton label={`Forget all ${n}`} icon={X} onPress={() => act('forget', ids)} />
          </>
        )
      }
      rows={() => jobs.map((job) => <JobRow key={job.id} job={job} act={act} />)}
    />
  );
}

/** Uploads from this device; waiting ones share a row if there are many. */
function SendingRows({ sending }: { sending: readonly Sending[] }) {
  const queued = sending.filter((s) => s.state === 'queued');
  const row = (s: Sending) => <SendingRow key={s.id} sending={s} />;
  const stop = (): void => queued.forEach((s) => s.stop());
  if (queued.length <= APART) return sending.map(row);
  return (
    <>
      {sending.filter((s) => s.state !== 'queued').map(row)}
      <Group
        what={`${queued.length} files wait until others are sent`}
        buttons={<IconButton label={`Stop sending all ${queued.length} that wait`} icon={X} onPress={stop} />}
        rows={() => queued.map(row)}
      />
    </>
  );
}

function sendingText({ state, progress, message, files }: Sending): string {
  if (state === 'failed') return message ?? 'failed';
  if (state === 'waiting') return `waiting${message ? `: ${message}` : ' for the connection'}`;
  if (state === 'queued') return 'waiting until others are sent';
  return `sending${files > 1 ? ` ${files} chapters` : ''}, ${Math.round(progress * 100)} %`;
}

function SendingRow({ sending }: { sending: Sending }) {
  const { name, progress, state, stop } = sending;
  return (
    <View className="flex-row items-center gap-2">
      <View className="min-w-0 flex-1 gap-1">
        <Txt>
          {name} · <Txt quiet>{sendingText(sending)}</Txt>
        </Txt>
        {state === 'failed' ? null : <Progress label={`Sending ${name}`} value={progress} />}
      </View>
      <IconButton label={`Stop sending ${name}`} icon={X} onPress={stop} />
    </View>
  );
}

/** One job, memoised. */
const JobRow = memo(function JobRow({ job, act }: { job: Job; act: Act }) {
  const { id, kind, state, title, progress, message } = job;
  const verb = isIntake(kind) ? WORDS[kind] : '';
  const ended = state === 'failed' || state === 'stopped';
  return (
    <View className="flex-row items-center gap-2" testID={`intake-${state}`}>
      <View className="min-w-0 flex-1 gap-1">
        {ended ? (
          <>
            <Txt bold>
              {title} {isIntake(kind) ? MISSING[kind] : 'was not made'}
            </Txt>
            <Txt>{message}</Txt>
          </>
        ) : (
          <>
            <Txt>
              {title} ·{' '}
              <Txt quiet>
                {state === 'waiting'
                  ? 'waiting'
                  : `${verb.toLowerCase()}\u00a0…${job.secondsLeft === null ? '' : ` ${spell(job.secondsLeft)} left`}`}
              </Txt>
            </Txt>
            {state === 'running' ? <Progress label={`${verb} ${title}`} value={progress} /> : null}
          </>
        )}
      </View>
      {ended ? <IconButton label={`Try ${title} again`} icon={RotateCcw} onPress={() => act('again', [id])} /> : null}
      <IconButton
        label={ended ? `Forget ${title}` : `Stop ${title}`}
        icon={X}
        onPress={() => act(ended ? 'forget' : 'stop', [id])}
      />
    </View>
  );
});
