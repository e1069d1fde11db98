import { useQuery, useQueryClient } from '@tanstack/react-query';
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { useRouter } from 'expo-router';
import type { ReactNode } from 'react';
import { View } from 'react-native';
import type { Job, JobsRequest } from '@inkavo/core/model/job';
import { api, ARCHIVE_URL } from '../../api/client';
import { actOnJobs } from '../../state/actOnJobs';
import { tellTrouble } from '../../state/messages';
import { Button, IconButton } from '../../ui/Button';
import { Empty, Loading, Trouble } from '../../ui/Note';
import { TopBar } from '../../ui/TopBar';
import { Txt } from '../../ui/Txt';
import { useTapGuard } from '../../ui/useTapGuard';
import { UndoButtons } from '../../ui/UndoButtons';
import { VirtualRows, type VirtualRow } from '../../ui/VirtualRows';
import { Download, Pause, Play, RotateCcw, Trash, X } from '../../ui/icons';
import { positionAt } from '@inkavo/core/model/order';
import { secondsForAll, spell } from '../outing/timeLeft';
import { IntoFolder } from './IntoFolder';
import { ExportRow, SortableRow } from './ExportRow';

/** Estimated heights of rows in pixels. */
const HEIGHT = { job: 72, heading: 52 };

/** The export queue and its results. */
export function Exports() {
  const router = useRouter();
  const { data, error } = useQuery({ queryKey: ['jobs'], queryFn: api.jobs });
  const exports = data?.filter((j) => j.kind === 'export' || j.kind === 'copy') ?? [];
  const running = exports.filter((j) => j.state === 'running');
  const waiting = exports.filter((j) => j.state === 'waiting').toSorted((a, b) => a.rank - b.rank);
  const unmade = exports.filter((j) => j.state === 'failed' || j.state === 'stopped');
  const ended = exports.filter((j) => j.state === 'done');
  const done = ended.filter((j) => j.file);
  const heading = (key: string, draw: () => ReactNode) => ({ key, height: HEIGHT.heading, draw });
  const row = (job: Job) => ({ key: job.id, height: HEIGHT.job, draw: () => <ExportRow job={job} /> });
  const rows: VirtualRow[] = [
    ...(error ? [heading('error', () => <Trouble text={error.message} />)] : []),
    ...(running.length + waiting.length > 0 ? [heading('going', () => <Going jobs={[...running, ...waiting]} />)] : []),
    ...running.map(row),
    ...waiting.map((job) => ({ ...row(job), draw: () => <SortableRow job={job} sortable={waiting.length > 1} /> })),
    ...(unmade.length > 1 ? [heading('unmade', () => <Unmade jobs={unmade} />)] : []),
    ...unmade.map(row),
    ...(done.length > 1 ? [heading('done', () => <Done count={done.length} />)] : []),
    ...ended.map(row),
    ...(data ? [heading('into', () => <IntoFolder />)] : []),
  ];
  const guarded = useTapGuard(rows.map((r) => r.key).join());
  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar title="Exports" back="last" backLabel="Back">
        <UndoButtons place="exports" />
      </TopBar>
      <View ref={guarded} className="flex-1">
        <Sorting jobs={waiting}>
          <VirtualRows name="exports" rows={rows} gap={8}>
            {data && exports.length === 0 ? (
              <Empty
                title="Nothing is being exported"
                text="Open a clip and choose Export, or choose several clips of an outing and export them together."
              >
                <Button title="Go to the outings" onPress={() => router.push('/')} />
              </Empty>
            ) : null}
            {!data && !error ? <Loading what="the exports" /> : null}
          </VirtualRows>
        </Sorting>
      </View>
    </View>
  );
}

/** Heading of finished files. */
function Done({ count }: { count: number }) {
  return (
    <View className="mt-2 flex-row items-center justify-between">
      <Txt bold role="heading" aria-level={2}>
        {count} finished
      </Txt>
      <a href={ARCHIVE_URL} download="exports.zip" style={{ textDecoration: 'none' }}>
        <View className="h-[44px] flex-row items-center gap-2 rounded border-stroke border-edge px-3">
          <Download size={20} color="var(--ink)" aria-hidden />
          <Txt>Save all as one archive</Txt>
        </View>
      </a>
    </View>
  );
}

const act = (what: JobsRequest['act'], jobs: readonly Job[]): void =>
  actOnJobs(
    what,
    jobs.map((j) => j.id),
    'queue',
    ['jobs'],
  );

/** Heading of failed and stopped ones. */
function Unmade({ jobs }: { jobs: readonly Job[] }) {
  const n = jobs.length;
  return (
    <View className="mt-2 flex-row items-center">
      <Txt bold role="heading" aria-level={2} className="flex-1">
        {n} not made
      </Txt>
      <IconButton label={`Try all ${n} again`} icon={RotateCcw} onPress={() => act('again', jobs)} />
      <IconButton label={`Forget all ${n}`} icon={Trash} onPress={() => act('forget', jobs)} />
    </View>
  );
}

/** Number of waiting exports, and whether the queue is paused. */
function Going({ jobs }: { jobs: readonly Job[] }) {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['queue'], queryFn: api.queue, staleTime: 0 });
  const paused = data?.paused ?? false;
  const set = (next: boolean): void =>
    void api
      .setQueue({ paused: next })
      .catch((error: Error) => tellTrouble('queue', error.message))
      .finally(() => client.invalidateQueries({ queryKey: ['queue'] }));
  const waiting = jobs.filter((j) => j.state === 'waiting');
  const seconds = secondsForAll(jobs);
  return (
    <View className="flex-row items-center gap-2">
      <Txt bold role="heading" aria-level={2} className="flex-1">
        {paused
          ? `Paused · ${waiting.length} waiting`
          : `${jobs.length} to be made${seconds === null ? '' : ` · about ${spell(seconds)} left`}`}
      </Txt>
      {waiting.length > 1 ? (
        <IconButton label={`Stop all ${waiting.length} that wait`} icon={X} onPress={() => act('stop', waiting)} />
      ) : null}
      <Button
        title={paused ? 'Go on' : 'Pause'}
        icon={paused ? Play : Pause}
        look={paused ? 'strong' : 'plain'}
        onPress={() => set(!paused)}
      />
    </View>
  );
}

/** Sorts waiting exports. */
function Sorting({ jobs, children }: { jobs: Job[]; children: ReactNode }) {
  const client = useQueryClient();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const move = ({ active, over }: DragEndEvent): void => {
    const [from, to] = [active.id, over?.id].map((id) => jobs.findIndex((j) => j.id === id));
    if (from < 0 || to < 0 || from === to) return;
    const ranks = arrayMove(jobs, from, to).map((j) => j.rank);
    const rank = positionAt(ranks, to);
    client.setQueryData<Job[]>(['jobs'], (all) => all?.map((j) => (j.id === active.id ? { ...j, rank } : j)));
    void api
      .moveJob(String(active.id), rank)
      .catch((error: Error) => tellTrouble('queue', error.message))
      .finally(() => client.invalidateQueries({ queryKey: ['jobs'] }));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={move}>
      <SortableContext items={jobs.map((j) => j.id)} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}
