import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { ActivityIndicator, View } from 'react-native';
import type { ListedClip } from '@inkavo/core/model/outing';
import { outingQuery } from '../../api/queries';
import { useBench } from '../../state/bench';
import { Trouble } from '../../ui/Note';
import { Txt } from '../../ui/Txt';

/** The other clips of the outing; none while loading. */
export function useOtherClips(): ListedClip[] {
  const { id, outingId } = useBench((s) => s.opened!.clip);
  return useQuery(outingQuery(outingId)).data?.clips.filter((c) => c.id !== id) ?? [];
}

/** A row for each other clip of the outing, by camera. */
export function OtherClips({ row }: { row(clip: ListedClip): ReactNode }) {
  const { outingId } = useBench((s) => s.opened!.clip);
  const { data, error } = useQuery(outingQuery(outingId));
  const others = useOtherClips();
  return (
    <>
      {error ? <Trouble text={error.message} /> : null}
      {!data && !error ? <ActivityIndicator color="var(--ink)" accessibilityLabel="Loading the clips" /> : null}
      {data && others.length === 0 ? <Txt quiet>This outing has no other clip.</Txt> : null}
      {data?.cameras.map((camera) => {
        const own = others.filter((c) => c.cameraId === camera.id);
        return own.length ? (
          <View key={camera.id} className="gap-2" role="group" aria-label={camera.name}>
            <Txt size="sm" quiet>
              {camera.name}
            </Txt>
            {own.map(row)}
          </View>
        ) : null;
      })}
    </>
  );
}
