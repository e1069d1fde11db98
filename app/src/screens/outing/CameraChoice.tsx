import { useState } from 'react';
import type { Camera } from '@inkavo/core/model/outing';
import { ChoiceList } from '../../ui/Choice';
import { Field } from '../../ui/Field';

/** A camera that is there, by its id, or a new one by its name. */
export type ChosenCamera = { id: string } | { name: string } | 'tags';
const NEW = 'new camera';
const TAGS = 'tags';

/** Chooses one of an outing's cameras, or names a new one. `byTags` offers what the files say of themselves. */
export function CameraChoice({
  cameras,
  value,
  byTags,
  onChange,
}: {
  cameras: readonly Camera[];
  value: ChosenCamera | null;
  byTags?: boolean;
  onChange(value: ChosenCamera): void;
}) {
  const [name, setName] = useState('');
  const chosen = value === null ? null : value === 'tags' ? TAGS : 'id' in value ? value.id : NEW;
  return (
    <>
      <ChoiceList
        label="Camera"
        value={chosen}
        options={[
          ...(byTags ? [{ value: TAGS, title: 'As the files say', note: 'by their tags' }] : []),
          ...cameras.map((c) => ({ value: c.id, title: c.name })),
          { value: NEW, title: 'A new camera' },
        ]}
        onChange={(v) => onChange(v === TAGS ? 'tags' : v === NEW ? { name } : { id: v })}
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
