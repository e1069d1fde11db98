import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { useQueryClient } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { Pressable, View } from 'react-native';
import type { Job } from '@inkavo/core/model/job';
import { api, jobFileUrl } from '../../api/client';
import { act as run } from '../../state/commands';
import { tellTrouble } from '../../state/messages';
import { IconButton } from '../../ui/Button';
import { Progress } from '../../ui/Progress';
import { Txt } from '../../ui/Txt';
import { Download, GripVertical, RotateCcw, Trash, X } from '../../ui/icons';
import { bytesText } from '../outing/bringing';
import { clock } from './clock';
import { CopyInto } from './IntoFolder';
import { spell } from '../outing/timeLeft';

function stateText({ state, progress, secondsLeft, framesPerSecond, message, file }: Job): string {
  if (state === 'running')
    return [
      `${Math.round(progress * 100)} %`,
      framesPerSecond === null ? '' : `${Math.round(framesPerSecond)} frames a second`,
      secondsLeft === null ? '' : `${spell(secondsLeft)} left`,
    ]
      .filter(Boolean)
      .join(' · ');
  if (state === 'done' && !file) return message ?? 'done';
  if (state === 'done')
    return [`finished, ${bytesText(file?.bytes ?? 0)}`, file?.result ? clock(file.result.seconds) : '', message]
      .filter(Boolean)
      .join(' · ');
  return message ?? { waiting: 'waiting', failed: 'failed', stopped: 'stopped' }[state];
}

/** A waiting export, with a drag handle. */
export function SortableRow({ job, sortable }: { job: Job; sortable: boolean }) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: job.id,
    disabled: !sortable,
  });
  const grip = sortable ? (
    <button
      ref={setActivatorNodeRef}
      {...attributes}
      {...listeners}
      aria-label={`Move ${job.file?.name ?? job.title}`}
      style={{ width: 44, height: 44, padding: 10, border: 0, background: 'none', cursor: 'grab', touchAction: 'none' }}
    >
      <GripVertical size={22} color="var(--ink)" aria-hidden />
    </button>
  ) : null;
  return (
    <div
      ref={setNodeRef}
      style={{ transform: CSS.Transform.toString(transform), transition, opacity: isDragging ? 0.7 : 1 }}
    >
      <ExportRow job={job} grip={grip} />
    </div>
  );
}

/** An export: its progress, or its result. */
export function ExportRow({ job, grip }: { job: Job; grip?: ReactNode }) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const act = (call: Promise<unknown>): void =>
    void call
      .catch((error: Error) => tellTrouble('queue', error.message))
      .finally(() => client.invalidateQueries({ queryKey: ['jobs'] }));
  const { id, state, file } = job;
  // A finished file can be restored; a job without one has nothing to lose.
  const remove = (): void => {
    if (state !== 'done' || !file) return act(api.removeJob(id));
    act(
      run(
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
  const underWay = state === 'waiting' || state === 'running';
  return (
    <View testID={`export-${state}`} className="rounded border-stroke border-line bg-surface py-2 pl-3 pr-1">
      <View className="flex-row items-center gap-1">
        {grip}
        <Pressable
          className="min-h-[44px] min-w-0 flex-1 justify-center gap-1"
          {...(state === 'done' && file
            ? {
                role: 'button',
                'aria-expanded': open,
                'aria-label': `What ${file.name} is`,
                onPress: () => setOpen(!open),
              }
            : { disabled: true, tabIndex: -1 })}
        >
          <Txt bold numberOfLines={1}>
            {file?.name ?? job.title}
          </Txt>
          <Txt quiet size="sm">
            {job.kind === 'copy' ? 'a copy' : file?.format} · {stateText(job)}
          </Txt>
          {state === 'running' ? (
            <Progress label={`${job.kind === 'copy' ? 'Copying' : 'Exporting'} ${job.title}`} value={job.progress} />
          ) : null}
        </Pressable>
        {state === 'done' && file ? (
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
          <IconButton
            label={`${job.kind === 'copy' ? 'Copy' : 'Export'} ${job.title} again`}
            icon={RotateCcw}
            onPress={() => act(api.jobAgain(id))}
          />
        ) : null}
        {underWay ? (
          <IconButton label={`Stop ${job.title}`} icon={X} onPress={() => act(api.stopJob(id))} />
        ) : (
          <IconButton label={`Remove ${file?.name ?? job.title}`} icon={Trash} onPress={remove} />
        )}
      </View>
      {open && file ? (
        <View className="gap-1 pb-1 pr-2 pt-2">
          <Txt size="sm">
            {file.result ? `${file.result.width}×${file.result.height} · ${file.result.frames} frames · ` : ''}
            {file.bytes} bytes
          </Txt>
          {file.result ? (
            <Txt size="sm" quiet selectable>
              SHA-256 {file.result.sha256}
            </Txt>
          ) : null}
          {state === 'done' ? <CopyInto jobId={id} name={file.name} /> : null}
        </View>
      ) : null}
    </View>
  );
}
