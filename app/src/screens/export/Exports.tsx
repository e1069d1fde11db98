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
import { ActivityIndicator, ScrollView, View } from 'react-native';
import type { Job } from '@inkavo/core/model/job';
import { api, ARCHIVE_URL } from '../../api/client';
import { tellTrouble } from '../../state/messages';
import { Button } from '../../ui/Button';
import { Empty, Trouble } from '../../ui/Note';
import { TopBar } from '../../ui/TopBar';
import { Txt } from '../../ui/Txt';
import { UndoButtons } from '../../ui/UndoButtons';
import { Download, Pause, Play } from '../../ui/icons';
import { positionAt } from '@inkavo/core/model/order';
import { IntoFolder } from './IntoFolder';
import { ExportRow, SortableRow } from './ExportRow';

/** The export queue and what came out of it. */
export function Exports() {
  const router = useRouter();
  const { data, error } = useQuery({ queryKey: ['jobs'], queryFn: api.jobs });
  const exports = data?.filter((j) => j.kind === 'export' || j.kind === 'copy') ?? [];
  const running = exports.filter((j) => j.state === 'running');
  const waiting = exports.filter((j) => j.state === 'waiting').toSorted((a, b) => a.rank - b.rank);
  const ended = exports.filter((j) => j.state !== 'running' && j.state !== 'waiting');
  const done = ended.filter((j) => j.state === 'done' && j.file);
  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar title="Exports" back="last" backLabel="Back">
        <UndoButtons place="exports" />
      </TopBar>
      <ScrollView contentContainerClassName="mx-auto w-full max-w-[860px] gap-2 p-3">
        {error ? <Trouble text={error.message} /> : null}
        {running.length + waiting.length > 0 ? <Going jobs={[...running, ...waiting]} /> : null}
        {running.map((job) => (
          <ExportRow key={job.id} job={job} />
        ))}
        <Waiting jobs={waiting} />
        {done.length > 1 ? (
          <View className="mt-2 flex-row items-center justify-between">
            <Txt bold role="heading" aria-level={2}>
              {done.length} finished
            </Txt>
            <a href={ARCHIVE_URL} download="exports.zip" style={{ textDecoration: 'none' }}>
              <View className="h-[44px] flex-row items-center gap-2 rounded border-stroke border-edge px-3">
                <Download size={20} color="var(--ink)" aria-hidden />
                <Txt>Save all as one archive</Txt>
              </View>
            </a>
          </View>
        ) : null}
        {ended.map((job) => (
          <ExportRow key={job.id} job={job} />
        ))}
        {data ? <IntoFolder /> : null}
        {data && exports.length === 0 ? (
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

/** How many are to come, and whether they do. */
function Going({ jobs }: { jobs: readonly Job[] }) {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['queue'], queryFn: api.queue, staleTime: 0 });
  const paused = data?.paused ?? false;
  const set = (next: boolean): void =>
    void api
      .setQueue({ paused: next })
      .catch((error: Error) => tellTrouble('queue', error.message))
      .finally(() => client.invalidateQueries({ queryKey: ['queue'] }));
  const running = jobs.filter((j) => j.state === 'running').length;
  return (
    <View className="flex-row items-center justify-between">
      <Txt bold role="heading" aria-level={2}>
        {paused ? `Paused · ${jobs.length - running} waiting` : `${jobs.length} to be made`}
      </Txt>
      <Button
        title={paused ? 'Go on' : 'Pause'}
        icon={paused ? Play : Pause}
        look={paused ? 'strong' : 'plain'}
        onPress={() => set(!paused)}
      />
    </View>
  );
}

/** What waits, to be put into another order. */
function Waiting({ jobs }: { jobs: Job[] }) {
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
        {jobs.map((job) => (
          <SortableRow key={job.id} job={job} sortable={jobs.length > 1} />
        ))}
      </SortableContext>
    </DndContext>
  );
}
