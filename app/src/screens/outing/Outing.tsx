import { useQuery } from '@tanstack/react-query';
import { useRouter } from 'expo-router';
import { useState } from 'react';
import { ActivityIndicator, ScrollView, View } from 'react-native';
import type { Clip } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { Button, IconButton } from '../../ui/Button';
import { Empty, Trouble } from '../../ui/Note';
import { TopBar } from '../../ui/TopBar';
import { DeliverSheet } from '../bench/DeliverSheet';
import { dayText } from '../day';
import { BringIn } from './BringIn';
import { CameraGroup } from './CameraGroup';
import { Intake } from './Intake';
import { SquareCheckBig, FolderInput, Share, X } from '../../ui/icons';

/** One day: its clips by camera. */
export function OutingScreen({ id }: { id: string }) {
  const router = useRouter();
  const { data, error } = useQuery({ queryKey: ['outing', id], queryFn: () => api.outing(id) });
  const [bringing, setBringing] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  const [delivering, setDelivering] = useState(false);
  const toggle = (clip: Clip): void =>
    setChosen((old) => new Set(old?.has(clip.id) ? [...old].filter((c) => c !== clip.id) : [...(old ?? []), clip.id]));
  const byCamera = data?.cameras
    .map((camera) => ({ camera, clips: data.clips.filter((c) => c.cameraId === camera.id) }))
    .filter(({ clips }) => clips.length > 0);

  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar
        title={data?.outing.name ?? 'Outing'}
        note={data ? dayText(data.outing.date) : undefined}
        back="/"
        backLabel="All outings"
      >
        {chosen ? (
          <>
            <Button
              title={`Export ${chosen.size}`}
              icon={Share}
              look="strong"
              disabled={chosen.size === 0}
              onPress={() => setDelivering(true)}
              className="mr-1"
            />
            <IconButton label="Stop choosing" icon={X} onPress={() => setChosen(null)} />
          </>
        ) : (
          <>
            {data?.clips.length ? (
              <IconButton label="Choose several clips" icon={SquareCheckBig} onPress={() => setChosen(new Set())} />
            ) : null}
            <Button
              title="Bring in"
              icon={FolderInput}
              look={data?.clips.length ? 'plain' : 'strong'}
              onPress={() => setBringing(true)}
            />
          </>
        )}
      </TopBar>
      <ScrollView contentContainerClassName="mx-auto w-full max-w-[1240px] gap-4 p-3">
        {error ? <Trouble text={error.message} /> : null}
        {byCamera?.map((group) => (
          <CameraGroup
            key={group.camera.id}
            {...group}
            chosen={chosen}
            onOpen={(clip) => (chosen ? toggle(clip) : router.navigate(`/clip/${clip.id}`))}
          />
        ))}
        {data && data.clips.length === 0 && data.intake.length === 0 ? (
          <Empty
            title="No clips yet"
            text="Bring in clips from the memory card, or choose files on this device. The originals stay as they are."
          >
            <Button title="Bring in clips" icon={FolderInput} look="strong" onPress={() => setBringing(true)} />
          </Empty>
        ) : null}
        {!data && !error ? (
          <ActivityIndicator className="my-8" size="large" color="var(--ink)" accessibilityLabel="Loading the outing" />
        ) : null}
      </ScrollView>
      {data ? <Intake outingId={id} jobs={data.intake} /> : null}
      {bringing ? <BringIn outingId={id} onClose={() => setBringing(false)} /> : null}
      {delivering && chosen ? <DeliverSheet clipIds={[...chosen]} onClose={() => setDelivering(false)} /> : null}
    </View>
  );
}
