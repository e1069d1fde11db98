import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { ActivityIndicator, View } from 'react-native';
import type { Camera } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { useUploads } from '../../api/upload';
import { Button } from '../../ui/Button';
import { CheckRow } from '../../ui/Checkbox';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { FileUp } from '../../ui/icons';
import { CameraChoice, type ChosenCamera } from './CameraChoice';

/** Brings clips in, from the memory card or from this device. */
export function BringIn({
  outingId,
  cameras,
  dropped,
  onClose,
}: {
  outingId: string;
  cameras: readonly Camera[];
  /** Files that were dropped onto the page: then only their camera is asked. */
  dropped: File[];
  onClose(): void;
}) {
  const { data: card, error } = useQuery({ queryKey: ['card'], queryFn: api.card, staleTime: 0 });
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [trouble, setTrouble] = useState<string | null>(null);
  const [files, setFiles] = useState<File[]>(dropped);
  const input = useRef<HTMLInputElement>(null);
  const wanted = card?.files.filter((f) => !left.has(f.path)) ?? [];
  const bytes = wanted.reduce((sum, f) => sum + f.bytes, 0);

  const bring = async (): Promise<void> => {
    try {
      await api.importFromCard(
        outingId,
        wanted.map((f) => f.path),
      );
      onClose();
    } catch (failure) {
      setTrouble((failure as Error).message);
    }
  };
  if (files.length > 0) return <WhichCamera outingId={outingId} cameras={cameras} files={files} onClose={onClose} />;

  return (
    <Sheet title="Bring in clips" onClose={onClose}>
      {error || trouble ? <Trouble text={trouble ?? error!.message} /> : null}
      {card?.present ? (
        <>
          <Txt quiet>{card.files.length ? 'On the card' : 'There are no video files on the card.'}</Txt>
          {card.files.map((file) => (
            <CheckRow
              key={file.path}
              label={file.name}
              on={!left.has(file.path)}
              onChange={(on) => setLeft(new Set(on ? [...left].filter((p) => p !== file.path) : [...left, file.path]))}
            >
              <View className="min-w-0 flex-1">
                <Txt numberOfLines={1}>{file.name}</Txt>
                <Txt size="sm" quiet>
                  {file.folder}
                </Txt>
              </View>
              <Txt quiet>{megabytes(file.bytes)}</Txt>
            </CheckRow>
          ))}
          {card.files.length ? (
            <Button
              title={wanted.length ? `Bring in ${wanted.length} · ${megabytes(bytes)}` : 'None is chosen'}
              look="strong"
              disabled={wanted.length === 0}
              onPress={() => void bring()}
            />
          ) : null}
        </>
      ) : null}
      {card && !card.present ? <Txt quiet>No card is in.</Txt> : null}
      {!card && !error ? <ActivityIndicator color="var(--ink)" accessibilityLabel="Reading the card" /> : null}
      <input
        ref={input}
        type="file"
        accept="video/*,.mkv,.mts,.mxf"
        multiple
        aria-label="Files on this device"
        data-testid="file-input"
        onChange={(e) => setFiles([...(e.target.files ?? [])])}
        style={{ display: 'none' }}
      />
      <Button title="Choose files on this device" icon={FileUp} onPress={() => input.current?.click()} />
    </Sheet>
  );
}

const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;

/** Asks which camera files are from before they are sent. */
function WhichCamera({
  outingId,
  cameras,
  files,
  onClose,
}: {
  outingId: string;
  cameras: readonly Camera[];
  files: File[];
  onClose(): void;
}) {
  const [camera, setCamera] = useState<ChosenCamera>('tags');
  const name = camera === 'tags' ? '' : 'id' in camera ? cameras.find((c) => c.id === camera.id)!.name : camera.name;
  const bytes = files.reduce((sum, f) => sum + f.size, 0);
  const many = files.length === 1 ? files[0].name : `${files.length} files`;
  return (
    <Sheet title="Which camera?" onClose={onClose}>
      <Txt>
        {many} · {megabytes(bytes)}
      </Txt>
      <CameraChoice cameras={cameras} value={camera} byTags onChange={setCamera} />
      <Button
        title="Bring in"
        look="strong"
        disabled={camera !== 'tags' && !name.trim()}
        onPress={() => {
          useUploads.getState().send(outingId, files, name.trim());
          onClose();
        }}
      />
      <Txt size="sm" quiet>
        It can be changed later: a clip moves to another camera by its menu.
      </Txt>
    </Sheet>
  );
}
