import { useState } from 'react';
import { View } from 'react-native';
import type { ShelfItem, ShelfPatch } from '@inkavo/core/model/shelf';
import { api, shelfFileUrl } from '../../api/client';
import { act } from '../../state/commands';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { Download, Trash } from '../../ui/icons';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { GradeFileSheet } from '../export/GradeFileSheet';
import { ROLES } from './FilesSheet';
import { GroupField } from './GroupField';

/** Name, group and note of an item; saving it as a file; removing it. */
export function ItemSheet({
  item,
  groups,
  onRemoved,
  onClose,
}: {
  item: ShelfItem;
  groups: readonly string[];
  onRemoved(): void;
  onClose(): void;
}) {
  const [asTable, setAsTable] = useState(false);
  const [title, setTitle] = useState(item.title);
  const [group, setGroup] = useState(item.group);
  const [note, setNote] = useState(item.note);
  const [role, setRole] = useState(item.kind === 'lut' ? item.role : 'look');
  const wanted = { title: title.trim(), group: group.trim(), note: note.trim(), role };
  const was = { title: item.title, group: item.group, note: item.note, role: item.kind === 'lut' ? item.role : 'look' };
  const changed = (Object.keys(was) as (keyof typeof was)[]).filter((key) => wanted[key] !== was[key]);
  const only = (from: typeof wanted): ShelfPatch => Object.fromEntries(changed.map((key) => [key, from[key]]));
  const keep = async (): Promise<void> => {
    const command = {
      place: 'shelf',
      what: `change of ${item.title}`,
      done: [{ on: 'shelf' as const, id: item.id, patch: only(wanted) }],
      undone: [{ on: 'shelf' as const, id: item.id, patch: only(was) }],
    };
    if (changed.length === 0 || (await act(command))) onClose();
  };
  const remove = async (): Promise<void> => {
    const command = {
      place: 'shelf',
      what: `removal of ${item.title}`,
      done: [{ on: 'remove' as const, kind: 'shelf' as const, ids: [item.id] }],
      undone: [{ on: 'back' as const, kind: 'shelf' as const, ids: [item.id] }],
    };
    if (!(await act(command, `${item.title} was removed. Clips that use it keep it.`))) return;
    onRemoved();
    onClose();
  };
  if (asTable && item.kind === 'recipe')
    return (
      <GradeFileSheet
        title={`Save ${item.title} as a file`}
        name={item.title}
        make={(request) => api.gradeFile(item.steps, request)}
        onClose={() => setAsTable(false)}
      />
    );
  return (
    <Sheet title={item.title} onClose={onClose}>
      <Field label="Name" value={title} onChange={setTitle} />
      <GroupField value={group} groups={groups} onChange={setGroup} />
      {item.kind === 'lut' ? (
        <Choice label="It is for" value={role} options={ROLES} onChange={setRole} />
      ) : (
        <Field label="Note" value={note} onChange={setNote} maxLength={400} />
      )}
      <Button title="Keep" look="strong" disabled={!title.trim()} onPress={() => void keep()} />
      <a
        href={shelfFileUrl(item.id)}
        download
        style={{ textDecoration: 'none' }}
        aria-label={`Save ${item.title} as a file`}
      >
        <View className="min-h-[44px] flex-row items-center justify-center gap-2 rounded border-stroke border-edge bg-surface px-4">
          <Download size={20} color="var(--ink)" aria-hidden />
          <Txt>Save as a file</Txt>
        </View>
      </a>
      {item.kind === 'recipe' ? (
        <Button title="Save as a table or CDL …" icon={Download} onPress={() => setAsTable(true)} />
      ) : null}
      <Button title="Remove" icon={Trash} onPress={() => void remove()} />
    </Sheet>
  );
}
