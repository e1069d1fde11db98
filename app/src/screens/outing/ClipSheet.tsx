import { useState } from 'react';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { act, type Command } from '../../state/commands';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { Trash } from '../../ui/icons';
import { CameraChoice, type ChosenCamera } from './CameraChoice';
import { moveToCamera, removeClips } from './clipCommands';

/** Name and camera of a clip, and its removal. */
export function ClipSheet({
  clip,
  cameras,
  onClose,
}: {
  clip: ListedClip;
  cameras: readonly Camera[];
  onClose(): void;
}) {
  const [name, setName] = useState(clip.name);
  const [camera, setCamera] = useState<ChosenCamera>({ id: clip.cameraId });
  const unnamed = 'name' in camera && !camera.name.trim();
  const save = async (): Promise<void> => {
    const renamed = name.trim() !== clip.name;
    const moved = !('id' in camera && camera.id === clip.cameraId);
    if (renamed) {
      const command: Command = {
        place: clip.outingId,
        what: `name of ${clip.name}`,
        done: [{ on: 'clip', id: clip.id, patch: { name } }],
        undone: [{ on: 'clip', id: clip.id, patch: { name: clip.name } }],
      };
      if (!(await act(command))) return;
    }
    if (moved && !(await moveToCamera([clip], cameras, camera))) return;
    onClose();
  };
  const remove = async (): Promise<void> => {
    if (await removeClips([clip])) onClose();
  };
  return (
    <Sheet title="This clip" onClose={onClose}>
      <Field label="Name" value={name} onChange={setName} onSubmitEditing={() => void save()} />
      <Txt size="sm" quiet>
        Camera
      </Txt>
      <CameraChoice cameras={cameras} value={camera} onChange={setCamera} />
      <Button title="Save" look="strong" disabled={!name.trim() || unnamed} onPress={() => void save()} />
      <Button title="Remove this clip" icon={Trash} onPress={() => void remove()} />
    </Sheet>
  );
}
