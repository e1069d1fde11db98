import { useQuery } from '@tanstack/react-query';
import { ActivityIndicator, View } from 'react-native';
import type { Source } from '@inkavo/core/model/source';
import { api, sourcePictureUrl } from '../../api/client';
import { Trouble } from '../../ui/Note';
import { Thumb } from '../../ui/Thumb';
import { Txt } from '../../ui/Txt';
import { ConfirmCameras, type ConfirmProps } from './ConfirmCameras';

const COVER = { width: '100%', height: '100%', objectFit: 'cover', display: 'block' } as const;

/** Contents of a card, a disk or a folder of the server's machine, by camera: confirmed or corrected, then imported. */
export function FromSource({
  source,
  outingId,
  ...rest
}: Pick<ConfirmProps, 'cameras' | 'clips' | 'onClose'> & { source: Source; outingId: string }) {
  const { data, error } = useQuery({
    queryKey: ['source', source.id],
    queryFn: () => api.source(source.id),
    staleTime: 0,
    gcTime: 0,
  });
  if (error) return <Trouble text={error.message} />;
  if (!data)
    return (
      <View className="flex-row items-center gap-3 py-4">
        <ActivityIndicator color="var(--ink)" accessibilityLabel={`Looking through ${source.name}`} />
        <Txt quiet>Looking through {source.name} …</Txt>
      </View>
    );
  if (data.cameras.length === 0) return <Txt quiet>There are no video files here.</Txt>;
  return (
    <ConfirmCameras
      content={data}
      picture={({ problem, paths }) =>
        problem === null ? <Thumb src={sourcePictureUrl(source.id, paths[0])} style={COVER} /> : null
      }
      bring={(wanted) =>
        api.importFrom(outingId, {
          source: source.id,
          clips: wanted.flatMap((c) =>
            c.recordings.map((r) => ({ paths: r.paths, camera: c.name.trim(), kind: c.kind })),
          ),
        })
      }
      {...rest}
    />
  );
}
