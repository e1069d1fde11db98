import { useState } from 'react';
import type { Camera } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { act, type Command } from '../../state/commands';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { Download, Trash } from '../../ui/icons';
import { GradeFileSheet } from '../export/GradeFileSheet';
import { KINDS } from './cameraKinds';

/** Name and kind of a camera, and its removal with its clips. */
export function CameraSheet({ camera, clips, onClose }: { camera: Camera; clips: number; onClose(): void }) {
  const { id, outingId, name, kind } = camera;
  const [asFile, setAsFile] = useState(false);
  const [next, setNext] = useState({ name, kind });
  const save = async (): Promise<void> => {
    const command: Command = {
      place: outingId,
      what: `name of ${next.name}`,
      done: [{ on: 'camera', id, patch: next }],
      undone: [{ on: 'camera', id, patch: { name, kind } }],
    };
    if (await act(command)) onClose();
  };
  const remove = async (): Promise<void> => {
    const command: Command = {
      place: outingId,
      what: `removal of ${name}`,
      done: [{ on: 'remove', kind: 'camera', ids: [id] }],
      undone: [{ on: 'back', kind: 'camera', ids: [id] }],
    };
    if (await act(command, `${name} was removed.`)) onClose();
  };
  const withClips = clips === 0 ? '' : clips === 1 ? ' and its clip' : ` and its ${clips} clips`;
  // Steps that act in every clip of the camera.
  const steps = camera.steps.filter((s) => s.on && !s.limited);
  if (asFile)
    return (
      <GradeFileSheet
        title={`Save the steps of ${name}`}
        name={name}
        make={(request) => api.gradeFile(steps, request)}
        onClose={() => setAsFile(false)}
      />
    );
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
      {steps.length > 0 ? (
        <Button title="Save its steps as a file …" icon={Download} onPress={() => setAsFile(true)} />
      ) : null}
      <Button title={`Remove this camera${withClips}`} icon={Trash} onPress={() => void remove()} />
    </Sheet>
  );
}
