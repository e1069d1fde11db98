import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { ActivityIndicator } from 'react-native';
import { CLIP_ENDINGS } from '@inkavo/core/intake/clipNames';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { clipsAmong, withPaths } from '../../api/deviceFiles';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { FileUp, FolderInput } from '../../ui/icons';
import { FoldersSheet } from './FoldersSheet';
import { FromSource } from './FromSource';
import { FromDevice } from './FromDevice';

/** Chosen or dropped clips of this device, and the number of other files. */
export type Chosen = ReturnType<typeof clipsAmong>;

/** Imports clips, from a place on the server's machine or from this device. */
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
  /** Files dropped onto the page. */
  dropped: Chosen;
  /** Id of the source to open first. */
  from?: string;
  onClose(): void;
}) {
  const { data: sources, error } = useQuery({ queryKey: ['sources'], queryFn: api.sources, staleTime: 0 });
  const [chosen, setChosen] = useState(from);
  const [files, setFiles] = useState(dropped);
  const [allowing, setAllowing] = useState(false);
  const [none, setNone] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const choose = (list: FileList | null): void => {
    const chosenNow = clipsAmong(withPaths(list ?? []));
    setNone(chosenNow.clips.length === 0 && chosenNow.others > 0);
    setFiles(chosenNow);
  };
  const present = sources?.filter((s) => s.present) ?? [];
  const source = present.find((s) => s.id === chosen) ?? present[0];
  if (files.clips.length > 0)
    return (
      <Sheet title="Bring in clips" onClose={onClose}>
        <FromDevice
          files={files.clips}
          leftAlone={files.others}
          outingId={outingId}
          cameras={cameras}
          clips={clips}
          onClose={onClose}
        />
      </Sheet>
    );

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
        accept={['video/*', ...CLIP_ENDINGS.map((ending) => `.${ending}`)].join()}
        multiple
        aria-label="Files on this device"
        data-testid="file-input"
        onChange={(e) => choose(e.target.files)}
        style={{ display: 'none' }}
      />
      <input
        ref={folder}
        type="file"
        // Missing in React's types.
        {...{ webkitdirectory: '' }}
        aria-label="A folder on this device"
        data-testid="folder-input"
        onChange={(e) => choose(e.target.files)}
        style={{ display: 'none' }}
      />
      {none ? <Trouble text="None of these files is a clip. Nothing was brought in." /> : null}
      <Button title="Files on this device" icon={FileUp} onPress={() => input.current?.click()} />
      <Button title="A folder on this device" icon={FolderInput} onPress={() => folder.current?.click()} />
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
