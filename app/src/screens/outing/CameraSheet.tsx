import { useState } from 'react';
import type { Camera } from '@inkavo/core/model/outing';
import { act, type Deed } from '../../state/deeds';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { Trash } from '../../ui/icons';
import { KINDS } from './cameraKinds';

/** Name and kind of a camera, and its removal with its clips. */
export function CameraSheet({ camera, clips, onClose }: { camera: Camera; clips: number; onClose(): void }) {
  const { id, outingId, name, kind } = camera;
  const [next, setNext] = useState({ name, kind });
  const save = async (): Promise<void> => {
    const deed: Deed = {
      place: outingId,
      what: `name of ${next.name}`,
      done: [{ on: 'camera', id, patch: next }],
      undone: [{ on: 'camera', id, patch: { name, kind } }],
    };
    if (await act(deed)) onClose();
  };
  const remove = async (): Promise<void> => {
    const deed: Deed = {
      place: outingId,
      what: `removal of ${name}`,
      done: [{ on: 'remove', kind: 'camera', ids: [id] }],
      undone: [{ on: 'back', kind: 'camera', ids: [id] }],
    };
    if (await act(deed, `${name} was removed.`)) onClose();
  };
  const withClips = clips === 0 ? '' : clips === 1 ? ' and its clip' : ` and its ${clips} clips`;
  return (
    <Sheet title="This camera" onClose={onClose}>
      <Field
        label="Name"
        value={next.name}
        onChange={(text) => setNext((n) => ({ ...n, name: text }))}
        onSubmitEditing={() => void save()}
      />
      <Txt size="sm" quiet>
        Kind
      </Txt>
      <Choice label="Kind" value={next.kind} options={KINDS} onChange={(k) => setNext((n) => ({ ...n, kind: k }))} />
      <Button title="Save" look="strong" disabled={!next.name.trim()} onPress={() => void save()} />
      <Button title={`Remove this camera${withClips}`} icon={Trash} onPress={() => void remove()} />
    </Sheet>
  );
}
