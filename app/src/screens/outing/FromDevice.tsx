import { useQuery } from '@tanstack/react-query';
import { nanoid } from 'nanoid';
import { useCallback, useState } from 'react';
import { View } from 'react-native';
import { namedAsKnown, detectCameras } from '@inkavo/core/intake/detectCameras';
import { api } from '../../api/client';
import { lookAtFiles, type DeviceFile } from '../../api/deviceFiles';
import { useUploads } from '../../api/upload';
import { Button } from '../../ui/Button';
import { Trouble } from '../../ui/Note';
import { Progress } from '../../ui/Progress';
import { Txt } from '../../ui/Txt';
import { ConfirmCameras, type ConfirmProps } from './ConfirmCameras';

/** Time of a clip's preview in seconds: cameras are often still being positioned at the start. */
const PICTURE_SECONDS = 1;
const COVER = { width: '100%', height: '100%', objectFit: 'cover', display: 'block' } as const;

/** Files of this device, by camera and with their chapters: confirmed or corrected, then uploaded. */
export function FromDevice({
  files,
  leftAlone,
  outingId,
  cameras,
  clips,
  onClose,
}: Pick<ConfirmProps, 'cameras' | 'clips' | 'onClose'> & {
  files: readonly DeviceFile[];
  /** Number of files that are not clips. */
  leftAlone: number;
  outingId: string;
}) {
  const [key] = useState(nanoid);
  const [done, setDone] = useState(0);
  const { data, error } = useQuery({
    queryKey: ['device', key],
    queryFn: async ({ signal }) => {
      const looked = await lookAtFiles(files, { signal, onProgress: setDone });
      const known = clips.map((c) => ({ name: c.name, camera: cameras.find((k) => k.id === c.cameraId)?.name ?? '' }));
      const { freeBytes } = await api.freeBytes();
      return { cameras: namedAsKnown(detectCameras(looked), known), leftAlone, freeBytes };
    },
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
  });
  const byPath = new Map(files.map(({ path, file }) => [path, file]));
  if (error)
    return (
      <>
        <Trouble text={`The files could not be looked through here: ${error.message}`} />
        <Button
          title="Bring them in, cameras as the files say"
          look="strong"
          onPress={() => {
            const each = files.map(({ file }) => ({ files: [file], camera: '', kind: '' }));
            useUploads.getState().send(outingId, each);
            onClose();
          }}
        />
      </>
    );
  if (!data)
    return (
      <View className="gap-2 py-4">
        <Txt quiet>
          Looking through {files.length} file{files.length === 1 ? '' : 's'} …
        </Txt>
        <Progress label="Looking through the files" value={done / files.length} />
      </View>
    );
  return (
    <ConfirmCameras
      content={data}
      cameras={cameras}
      clips={clips}
      picture={({ problem, paths }) => (problem === null ? <DevicePicture file={byPath.get(paths[0])!} /> : null)}
      bring={(wanted) => {
        const recordings = wanted.flatMap(({ name, kind, recordings: own }) =>
          own.map(({ paths }) => ({ files: paths.map((p) => byPath.get(p)!), camera: name.trim(), kind })),
        );
        useUploads.getState().send(outingId, recordings);
        return Promise.resolve();
      }}
      onClose={onClose}
    />
  );
}

/** A frame of a file, if this browser can decode it. */
function DevicePicture({ file }: { file: File }) {
  const show = useCallback(
    (video: HTMLVideoElement) => {
      const address = URL.createObjectURL(file);
      video.src = `${address}#t=${PICTURE_SECONDS}`;
      return () => URL.revokeObjectURL(address);
    },
    [file],
  );
  return (
    <video
      ref={show}
      preload="metadata"
      muted
      playsInline
      aria-hidden
      style={COVER}
      onError={(e) => (e.currentTarget.style.visibility = 'hidden')}
    />
  );
}
