import { useState } from 'react';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { useClipboard } from '../../state/clipboard';
import { pasteInto } from '../../state/pasteInto';
import { Button } from '../../ui/Button';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import {
  CheckCheck,
  ClipboardPaste,
  FileVideo,
  FolderInput,
  Gauge,
  Library,
  ListChecks,
  Share,
  Trash,
} from '../../ui/icons';
import { CameraChoice, type ChosenCamera } from './CameraChoice';
import { moveToCamera, removeClips, setChecked } from './clipCommands';
import { FirstPassMany } from './FirstPassMany';
import { HoldMany } from './HoldMany';
import { RecipeFor } from './RecipeFor';

/** Actions on several clips. */
export function ManySheet({
  outingId,
  clips,
  all,
  cameras,
  onExport,
  onOut,
  onDone,
  onClose,
}: {
  outingId: string;
  clips: readonly ListedClip[];
  /** All clips of the outing. */
  all: readonly ListedClip[];
  cameras: readonly Camera[];
  onExport(): void;
  onOut(): void;
  /** Done: clears the selection. */
  onDone(): void;
  onClose(): void;
}) {
  const [next, setNext] = useState<'camera' | 'recipe' | 'firstPass' | 'hold' | null>(null);
  const [camera, setCamera] = useState<ChosenCamera | null>(null);
  const { steps: copied, following } = useClipboard();
  const then = (work: Promise<boolean>): void => void work.then((done) => done && onDone());
  const title = `${clips.length} clip${clips.length === 1 ? '' : 's'}`;
  if (next === 'recipe')
    return <RecipeFor clips={clips} onTake={(steps) => then(pasteInto(clips, steps))} onClose={onClose} />;
  if (next === 'firstPass') return <FirstPassMany {...{ outingId, clips, all, cameras, onDone, onClose }} />;
  if (next === 'hold') return <HoldMany {...{ outingId, clips, all, onClose }} />;
  if (next === 'camera') {
    const ready = camera !== null && ('id' in camera || camera.name.trim() !== '');
    return (
      <Sheet title={`${title}: which camera?`} onClose={onClose}>
        <CameraChoice cameras={cameras} value={camera} onChange={setCamera} />
        <Button
          title="Move them"
          look="strong"
          disabled={!ready}
          onPress={() => then(moveToCamera(clips, cameras, camera!))}
        />
      </Sheet>
    );
  }
  return (
    <Sheet title={title} onClose={onClose}>
      <Button title="Export" icon={Share} look="strong" onPress={onExport} />
      <Button title="Film, report, timeline …" icon={FileVideo} onPress={onOut} />
      {copied.length > 0 ? (
        <>
          <Button
            title={`Paste ${copied.length === 1 ? 'the copied step' : `${copied.length} copied steps`}`}
            icon={ClipboardPaste}
            onPress={() => then(pasteInto(clips, copied, { following }))}
          />
          <Txt size="sm" quiet>
            Each takes the place of the clip’s step of its kind.
          </Txt>
        </>
      ) : null}
      <Button title="First pass on each …" icon={ListChecks} onPress={() => setNext('firstPass')} />
      <Button title="Hold check on each …" icon={Gauge} onPress={() => setNext('hold')} />
      <Button title="Put a recipe into them …" icon={Library} onPress={() => setNext('recipe')} />
      <Button
        title={clips.every((c) => c.checked) ? 'Not checked any more' : 'Checked: these are done'}
        icon={CheckCheck}
        onPress={() => then(setChecked(clips, !clips.every((c) => c.checked)))}
      />
      <Button title="Move to another camera" icon={FolderInput} onPress={() => setNext('camera')} />
      <Button title="Remove" icon={Trash} onPress={() => then(removeClips(clips))} />
    </Sheet>
  );
}
