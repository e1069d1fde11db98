import { ScrollView, View } from 'react-native';
import type { Job } from '@inkavo/core/model/job';
import { useQueryClient } from '@tanstack/react-query';
import { api } from '../../api/client';
import { useUploads, type Sending } from '../../api/upload';
import { tellTrouble } from '../../state/messages';
import { IconButton } from '../../ui/Button';
import { Progress } from '../../ui/Progress';
import { Txt } from '../../ui/Txt';
import { RotateCcw, X } from '../../ui/icons';
import { bytesText } from './bringing';
import { onTheWay, spell } from './timeLeft';

const WORDS = { import: 'Bringing in', proxy: 'Making the proxy', render: 'Rendering the demo clip' } as const;
/** What an outing's list holds. */
const isIntake = (kind: Job['kind']): kind is keyof typeof WORDS => kind in WORDS;
/** What is missing when it ended without success. */
const MISSING = {
  import: 'was not brought in',
  proxy: 'has no proxy, so it does not play',
  render: 'was not rendered',
} as const;

/**
 * Files on their way in: sent, copied and read, made ready; and what went wrong, with the reason. It stands below the
 * clips, so that none moves under a finger when a file is done.
 */
export function Intake({ outingId, jobs }: { outingId: string; jobs: Job[] }) {
  const sending = useUploads((s) => s.sending).filter((s) => s.outingId === outingId);
  const shown = jobs.filter((j) => j.state !== 'done');
  if (sending.length + shown.length === 0) return null;
  const { files, bytes, secondsLeft } = onTheWay(jobs, sending);
  const proxies = jobs.filter((j) => j.kind === 'proxy' && (j.state === 'waiting' || j.state === 'running')).length;
  return (
    <ScrollView
      role="region"
      aria-label="Coming in"
      className="max-h-[36%] flex-none border-t-stroke border-line bg-surface"
      contentContainerClassName="mx-auto w-full max-w-[1240px] gap-2 p-3"
    >
      {files > 1 ? (
        <Txt bold>
          {[
            `${files} files coming in`,
            bytes > 0 ? bytesText(bytes) : '',
            secondsLeft === null ? '' : `about ${spell(secondsLeft)} left`,
          ]
            .filter(Boolean)
            .join(' · ')}
        </Txt>
      ) : null}
      {proxies > 1 ? <Txt bold>{`${proxies} proxies to be made · work can begin`}</Txt> : null}
      {sending.map((s) => (
        <SendingRow key={s.id} sending={s} />
      ))}
      {shown.map((job) => (
        <JobRow key={job.id} job={job} outingId={outingId} />
      ))}
    </ScrollView>
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

function JobRow({ job, outingId }: { job: Job; outingId: string }) {
  const client = useQueryClient();
  const act = (call: Promise<unknown>): void =>
    void call
      .catch((error: Error) => tellTrouble('intake', error.message))
      .finally(() => client.invalidateQueries({ queryKey: ['outing', outingId] }));
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
            {kind !== 'proxy' || state === 'running' ? <Progress label={`${verb} ${title}`} value={progress} /> : null}
          </>
        )}
      </View>
      {ended ? (
        <IconButton label={`Try ${title} again`} icon={RotateCcw} onPress={() => act(api.jobAgain(id))} />
      ) : null}
      <IconButton
        label={ended ? `Forget ${title}` : `Stop ${title}`}
        icon={X}
        onPress={() => act(ended ? api.removeJob(id) : api.stopJob(id))}
      />
    </View>
  );
}
