import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { ActivityIndicator, ScrollView, useWindowDimensions, View } from 'react-native';
import type { Camera, Clip } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { useBackCloses } from '../../ui/backCloses';
import { Button, IconButton } from '../../ui/Button';
import { Empty, Trouble } from '../../ui/Note';
import { TopBar } from '../../ui/TopBar';
import { Txt } from '../../ui/Txt';
import { UndoButtons } from '../../ui/UndoButtons';
import { ExportSheet } from '../bench/ExportSheet';
import { dayText } from '../day';
import { BringIn } from './BringIn';
import { CameraGroup } from './CameraGroup';
import { CameraSheet } from './CameraSheet';
import { ClipSheet } from './ClipSheet';
import { Intake } from './Intake';
import { ManySheet } from './ManySheet';
import { OutingSheet } from './OutingSheet';
import { EllipsisVertical, FolderInput, SquareCheckBig, X } from '../../ui/icons';

/** From this width on, buttons of the bar have words. */
const WITH_WORDS = 600;

/** Width of a tile and of the gap between two, in pixels, and of the widest row. */
const TILE = 280;
const GAP = 12;
const WIDEST = 1240;

type Open = 'bring' | 'export' | 'many' | 'outing' | { camera: Camera } | { clip: Clip } | null;

/** One day: its clips by camera. */
export function OutingScreen({ id }: { id: string }) {
  const { data, error } = useQuery({ queryKey: ['outing', id], queryFn: () => api.outing(id) });
  const [open, setOpen] = useState<Open>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const { width } = useWindowDimensions();
  const stop = (): void => setChosen(null);
  useBackCloses(chosen !== null, stop, false);
  const close = (): void => setOpen(null);
  const toggle = (clip: Clip): void =>
    setChosen((old) => new Set(old?.has(clip.id) ? [...old].filter((c) => c !== clip.id) : [...(old ?? []), clip.id]));
  const cameras = data?.cameras ?? [];
  const byCamera = cameras
    .map((camera) => ({ camera, clips: data!.clips.filter((c) => c.cameraId === camera.id) }))
    .filter(({ clips }) => clips.length > 0);
  const many = data?.clips.filter((c) => chosen?.has(c.id)) ?? [];
  const empty = data !== undefined && data.clips.length === 0;
  const columns = Math.max(1, Math.floor((Math.min(WIDEST, width) - 2 * GAP + GAP) / (TILE + GAP)));
  const name = data?.outing.name ?? 'Outing';

  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar
        title={chosen ? `${chosen.size} chosen` : name}
        note={data && !chosen ? [dayText(data.outing.date), data.outing.place].filter(Boolean).join(' · ') : undefined}
        back={chosen ? undefined : '/'}
        backLabel="All outings"
      >
        {chosen ? (
          <>
            <Button
              title="With them …"
              look="strong"
              disabled={chosen.size === 0}
              onPress={() => setOpen('many')}
              className="mr-1"
            />
            <IconButton label="Stop choosing" icon={X} onPress={stop} />
          </>
        ) : (
          <>
            <UndoButtons place={id} />
            {data?.clips.length ? (
              <IconButton label="Choose several clips" icon={SquareCheckBig} onPress={() => setChosen(new Set())} />
            ) : null}
            {width < WITH_WORDS ? (
              <IconButton label="Bring in" icon={FolderInput} onPress={() => setOpen('bring')} />
            ) : (
              <Button title="Bring in" icon={FolderInput} onPress={() => setOpen('bring')} />
            )}
            {data ? (
              <IconButton
                label="This outing: name, day, remove"
                icon={EllipsisVertical}
                onPress={() => setOpen('outing')}
              />
            ) : null}
          </>
        )}
      </TopBar>
      <ScrollView contentContainerClassName="mx-auto w-full max-w-[1240px] gap-4 px-3 pb-3">
        {error ? <Trouble text={error.message} /> : null}
        <div
          style={{
            display: 'grid',
            columnGap: GAP,
            rowGap: 8,
            gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`,
          }}
        >
          {byCamera.map((group) => (
            <div key={group.camera.id} style={{ gridColumn: `span ${Math.min(columns, group.clips.length)}` }}>
              <CameraGroup {...group} chosen={chosen} columns={columns} onToggle={toggle} onMore={setOpen} />
            </div>
          ))}
        </div>
        {empty && data.intake.length === 0 ? (
          <Empty
            title="No clips yet"
            text="Bring in clips from the memory card, or choose files on this device. The originals stay as they are."
          >
            <Button title="Bring in clips" icon={FolderInput} look="strong" onPress={() => setOpen('bring')} />
          </Empty>
        ) : null}
        {empty && data.intake.length > 0 ? (
          <Txt quiet className="my-8 self-center">
            The first clip is on its way in.
          </Txt>
        ) : null}
        {!data && !error ? (
          <ActivityIndicator className="my-8" size="large" color="var(--ink)" accessibilityLabel="Loading the outing" />
        ) : null}
      </ScrollView>
      {data ? <Intake outingId={id} jobs={data.intake} /> : null}
      {open === 'bring' ? <BringIn outingId={id} cameras={cameras} onClose={close} /> : null}
      {open === 'export' ? <ExportSheet clipIds={many.map((c) => c.id)} onClose={close} /> : null}
      {open === 'outing' && data ? <OutingSheet outing={data.outing} onClose={close} /> : null}
      {open === 'many' ? (
        <ManySheet
          clips={many}
          cameras={cameras}
          onExport={() => setOpen('export')}
          onDone={() => {
            close();
            stop();
          }}
          onClose={close}
        />
      ) : null}
      {open && typeof open === 'object' && 'camera' in open ? (
        <CameraSheet
          camera={open.camera}
          clips={data?.clips.filter((c) => c.cameraId === open.camera.id).length ?? 0}
          onClose={close}
        />
      ) : null}
      {open && typeof open === 'object' && 'clip' in open ? (
        <ClipSheet clip={open.clip} cameras={cameras} onClose={close} />
      ) : null}
    </View>
  );
}
