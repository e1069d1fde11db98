import { useState } from 'react';
import type { Camera } from '@inkavo/core/model/outing';
import { ChoiceList } from '../../ui/Choice';
import { Field } from '../../ui/Field';

/** An existing camera by id, or a new one by name. */
export type ChosenCamera = { id: string } | { name: string };
const NEW = 'new camera';

/** Chooses one of an outing's cameras, or names a new one. */
export function CameraChoice({
  cameras,
  value,
  onChange,
}: {
  cameras: readonly Camera[];
  value: ChosenCamera | null;
  onChange(value: ChosenCamera): void;
}) {
  const [name, setName] = useState('');
  const chosen = value === null ? null : 'id' in value ? value.id : NEW;
  return (
    <>
      <ChoiceList
        label="Camera"
        value={chosen}
        options={[...cameras.map((c) => ({ value: c.id, title: c.name })), { value: NEW, title: 'A new camera' }]}
        onChange={(v) => onChange(v === NEW ? { name } : { id: v })}
      />
      {chosen === NEW ? (
        <Field
          label="Name of the new camera"
          value={name}
          autoFocus
          onChange={(text) => {
            setName(text);
            onChange({ name: text });
          }}
        />
      ) : null}
    </>
  );
}
