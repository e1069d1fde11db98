import { View } from 'react-native';
import type { Job } from '@inkavo/core/model/job';
import { useQueryClient } from '@tanstack/react-query';
import { api } from '../../api/client';
import { useUploads, type Sending } from '../../api/upload';
import { IconButton } from '../../ui/Button';
import { Progress } from '../../ui/Progress';
import { Txt } from '../../ui/Txt';
import { RotateCcw, X } from '../../ui/icons';

const WORDS = { import: 'Bringing in', proxy: 'Making the proxy' } as const;

/** Files on their way in: sent, copied and read, made ready; and what went wrong, with the reason. */
export function Intake({ outingId, jobs }: { outingId: string; jobs: Job[] }) {
  const sending = useUploads((s) => s.sending).filter((s) => s.outingId === outingId);
  const shown = jobs.filter((j) => j.state === 'waiting' || j.state === 'running' || j.state === 'failed');
  if (sending.length + shown.length === 0) return null;
  return (
    <View role="region" aria-label="Coming in" className="gap-2 rounded border-stroke border-line bg-surface p-3">
      {sending.map((s) => (
        <SendingRow key={s.id} sending={s} />
      ))}
      {shown.map((job) => (
        <JobRow key={job.id} job={job} outingId={outingId} />
      ))}
    </View>
  );
}

function SendingRow({ sending: { name, progress, state, message, stop } }: { sending: Sending }) {
  const words =
    state === 'failed'
      ? message
      : state === 'waiting'
        ? 'waiting for the connection'
        : `sending, ${Math.round(progress * 100)} %`;
  return (
    <View className="flex-row items-center gap-2">
      <View className="min-w-0 flex-1 gap-1">
        <Txt>
          {name} · <Txt quiet>{words}</Txt>
        </Txt>
        {state === 'failed' ? null : <Progress label={`Sending ${name}`} value={progress} />}
      </View>
      <IconButton label={`Stop sending ${name}`} icon={X} onPress={stop} />
    </View>
  );
}

function JobRow({ job, outingId }: { job: Job; outingId: string }) {
  const client = useQueryClient();
  const act = (call: Promise<unknown>): void =>
    void call.finally(() => client.invalidateQueries({ queryKey: ['outing', outingId] }));
  const { id, kind, state, title, progress, message } = job;
  const verb = kind === 'export' ? '' : WORDS[kind];
  return (
    <View className="flex-row items-center gap-2" testID={`intake-${state}`}>
      <View className="min-w-0 flex-1 gap-1">
        {state === 'failed' ? (
          <>
            <Txt bold>{title} was not brought in</Txt>
            <Txt>{message}</Txt>
          </>
        ) : (
          <>
            <Txt>
              {title} · <Txt quiet>{state === 'waiting' ? 'waiting' : `${verb.toLowerCase()} …`}</Txt>
            </Txt>
            {kind === 'import' ? <Progress label={`${verb} ${title}`} value={progress} /> : null}
          </>
        )}
      </View>
      {state === 'failed' ? (
        <IconButton label={`Try ${title} again`} icon={RotateCcw} onPress={() => act(api.jobAgain(id))} />
      ) : null}
      <IconButton
        label={state === 'failed' ? `Forget ${title}` : `Stop ${title}`}
        icon={X}
        onPress={() => act(state === 'failed' ? api.removeJob(id) : api.stopJob(id))}
      />
    </View>
  );
}
