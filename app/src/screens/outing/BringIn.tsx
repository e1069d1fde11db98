import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { ActivityIndicator } from 'react-native';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { useUploads } from '../../api/upload';
import { Button } from '../../ui/Button';
import { CheckRow } from '../../ui/Checkbox';
import { Choice } from '../../ui/Choice';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { FileUp } from '../../ui/icons';
import { bytesText } from './bringing';
import { FoldersSheet } from './FoldersSheet';
import { FromSource } from './FromSource';
import { CameraChoice, type ChosenCamera } from './CameraChoice';

/** Brings clips in, from a place on the server's machine or from this device. */
export function BringIn({
  outingId,
  cameras,
  clips,
  dropped,
  from,
  onClose,
}: {
  outingId: string;
  cameras: readonly Camera[];
  clips: readonly ListedClip[];
  /** Files that were dropped onto the page: then only their camera is asked. */
  dropped: File[];
  /** Id of the place to look into first. */
  from?: string;
  onClose(): void;
}) {
  const { data: sources, error } = useQuery({ queryKey: ['sources'], queryFn: api.sources, staleTime: 0 });
  const [chosen, setChosen] = useState(from);
  const [files, setFiles] = useState<File[]>(dropped);
  const [allowing, setAllowing] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const present = sources?.filter((s) => s.present) ?? [];
  const source = present.find((s) => s.id === chosen) ?? present[0];
  if (files.length > 0)
    return <WhichCamera outingId={outingId} cameras={cameras} clips={clips} files={files} onClose={onClose} />;

  return (
    <Sheet title="Bring in clips" onClose={onClose}>
      {error ? <Trouble text={error.message} /> : null}
      {present.length > 1 ? (
        <Choice
          label="From"
          value={source.id}
          options={present.map((s) => ({ value: s.id, title: s.name }))}
          onChange={setChosen}
        />
      ) : null}
      {source ? (
        <FromSource
          key={source.id}
          source={source}
          outingId={outingId}
          cameras={cameras}
          clips={clips}
          onClose={onClose}
        />
      ) : null}
      {sources && !source ? <Txt quiet>No card is in.</Txt> : null}
      {!sources && !error ? <ActivityIndicator color="var(--ink)" accessibilityLabel="Looking for a card" /> : null}
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
      <Button title="A folder of the server’s machine …" look="bare" onPress={() => setAllowing(true)} />
      {allowing ? (
        <FoldersSheet
          folders={sources?.filter((s) => s.kind === 'folder') ?? []}
          onAllowed={(s) => {
            setChosen(s.id);
            setAllowing(false);
          }}
          onClose={() => setAllowing(false)}
        />
      ) : null}
    </Sheet>
  );
}

/** Asks which camera files are from before they are sent. */
function WhichCamera({
  outingId,
  cameras,
  clips,
  files: chosen,
  onClose,
}: {
  outingId: string;
  cameras: readonly Camera[];
  clips: readonly ListedClip[];
  files: File[];
  onClose(): void;
}) {
  const [camera, setCamera] = useState<ChosenCamera>('tags');
  const [again, setAgain] = useState(false);
  const here = chosen.filter((f) => clips.some((c) => c.name === f.name && c.bytes === f.size));
  const files = again ? chosen : chosen.filter((f) => !here.includes(f));
  const name = camera === 'tags' ? '' : 'id' in camera ? cameras.find((c) => c.id === camera.id)!.name : camera.name;
  const bytes = files.reduce((sum, f) => sum + f.size, 0);
  const many = files.length === 1 ? files[0].name : `${files.length} files`;
  return (
    <Sheet title="Which camera?" onClose={onClose}>
      <Txt>
        {many} · {bytesText(bytes)}
      </Txt>
      {here.length > 0 ? (
        <CheckRow label="Bring in again what is here already" on={again} onChange={setAgain}>
          <Txt className="flex-1">
            {here.length === 1 ? `${here[0].name} is` : `${here.length} are`} here already: bring in again
          </Txt>
        </CheckRow>
      ) : null}
      <CameraChoice cameras={cameras} value={camera} byTags onChange={setCamera} />
      <Button
        title="Bring in"
        look="strong"
        disabled={files.length === 0 || (camera !== 'tags' && !name.trim())}
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
