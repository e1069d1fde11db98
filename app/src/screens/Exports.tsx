import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'expo-router';
import { ActivityIndicator, ScrollView, View } from 'react-native';
import type { Job } from '@inkavo/core/model/job';
import { api, jobFileUrl } from '../api/client';
import { act as doDeed } from '../state/deeds';
import { Button, IconButton } from '../ui/Button';
import { Empty, Trouble } from '../ui/Note';
import { Progress } from '../ui/Progress';
import { TopBar } from '../ui/TopBar';
import { Txt } from '../ui/Txt';
import { UndoButtons } from '../ui/UndoButtons';
import { spell } from './outing/timeLeft';
import { Download, RotateCcw, Trash, X } from '../ui/icons';

/** The export queue and what came out of it. */
export function Exports() {
  const router = useRouter();
  const { data, error } = useQuery({ queryKey: ['jobs'], queryFn: api.jobs });
  const exports = data?.filter((j) => j.kind === 'export');
  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar title="Exports" back="last" backLabel="Back">
        <UndoButtons place="exports" />
      </TopBar>
      <ScrollView contentContainerClassName="mx-auto w-full max-w-[860px] gap-2 p-3">
        {error ? <Trouble text={error.message} /> : null}
        {exports?.map((job) => (
          <ExportRow key={job.id} job={job} />
        ))}
        {exports?.length === 0 ? (
          <Empty
            title="Nothing is being exported"
            text="Open a clip and choose Export, or choose several clips of an outing and export them together."
          >
            <Button title="Go to the outings" onPress={() => router.push('/')} />
          </Empty>
        ) : null}
        {!data && !error ? (
          <ActivityIndicator
            className="my-8"
            size="large"
            color="var(--ink)"
            accessibilityLabel="Loading the exports"
          />
        ) : null}
      </ScrollView>
    </View>
  );
}

function stateText({ state, progress, secondsLeft, message, file }: Job): string {
  if (state === 'running')
    return `${Math.round(progress * 100)} %${secondsLeft === null ? '' : `, ${spell(secondsLeft)} left`}`;
  if (state === 'done')
    return [`finished, ${((file?.bytes ?? 0) / 1e6).toFixed(1)} MB`, message].filter(Boolean).join(' · ');
  return message ?? { waiting: 'waiting', failed: 'failed', stopped: 'stopped' }[state];
}

function ExportRow({ job }: { job: Job }) {
  const client = useQueryClient();
  const act = (call: Promise<unknown>): void =>
    void call.finally(() => client.invalidateQueries({ queryKey: ['jobs'] }));
  const { id, state, file } = job;
  // A finished file can be put back; what has none has nothing to lose.
  const remove = (): void => {
    if (state !== 'done' || !file) return act(api.removeJob(id));
    act(
      doDeed(
        {
          place: 'exports',
          what: `removal of ${file.name}`,
          done: [{ on: 'remove', kind: 'file', ids: [id] }],
          undone: [{ on: 'back', kind: 'file', ids: [id] }],
        },
        `${file.name} was removed.`,
      ),
    );
  };
  const open = state === 'waiting' || state === 'running';
  return (
    <View
      testID={`export-${state}`}
      className="flex-row items-center gap-1 rounded border-stroke border-line bg-surface py-2 pl-3 pr-1"
    >
      <View className="min-w-0 flex-1 gap-1">
        <Txt bold numberOfLines={1}>
          {file?.name ?? job.title}
        </Txt>
        <Txt quiet size="sm">
          {file?.format} · {stateText(job)}
        </Txt>
        {open ? <Progress label={`Exporting ${job.title}`} value={job.progress} /> : null}
      </View>
      {state === 'done' ? (
        <a
          href={jobFileUrl(id)}
          download={file?.name}
          aria-label={`Save ${file?.name}`}
          style={{ textDecoration: 'none' }}
        >
          <View className="h-[44px] flex-row items-center gap-2 rounded bg-accent px-3">
            <Download size={20} color="var(--on-accent)" aria-hidden />
            <Txt bold ink="text-on-accent">
              Save
            </Txt>
          </View>
        </a>
      ) : null}
      {state === 'failed' || state === 'stopped' ? (
        <IconButton label={`Export ${job.title} again`} icon={RotateCcw} onPress={() => act(api.jobAgain(id))} />
      ) : null}
      {open ? (
        <IconButton label={`Stop ${job.title}`} icon={X} onPress={() => act(api.stopJob(id))} />
      ) : (
        <IconButton label={`Remove ${file?.name ?? job.title}`} icon={Trash} onPress={remove} />
      )}
    </View>
  );
}
