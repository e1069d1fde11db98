import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { View } from 'react-native';
import type { LutRole } from '@inkavo/core/model/shelf';
import { api } from '../../api/client';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { FileUp, FolderInput } from '../../ui/icons';
import { Progress } from '../../ui/Progress';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { GroupField } from './GroupField';

export const ROLES = [
  { value: 'look', title: 'Looks' },
  { value: 'technical', title: 'Conversions' },
] as const;
/** File extensions for the shelf; other files of a folder are skipped. */
const READ = /\.(cube|clf|xml|json|txt)$/i;

interface Batch {
  done: number;
  of: number;
  taken: string[];
  refused: { name: string; reason: string }[];
}

/** Imports many files to the shelf: valid ones are added, each invalid one is listed with its error. */
export function FilesSheet({ groups, onClose }: { groups: readonly string[]; onClose(): void }) {
  const client = useQueryClient();
  const [group, setGroup] = useState('');
  const [role, setRole] = useState<LutRole>('look');
  const [batch, setBatch] = useState<Batch | null>(null);
  const stopped = useRef(false);
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const busy = batch !== null && batch.done < batch.of;
  const bringIn = async (list: File[]): Promise<void> => {
    stopped.current = false;
    let now: Batch = { done: 0, of: list.length, taken: [], refused: [] };
    setBatch(now);
    for (const file of list) {
      if (stopped.current) break;
      try {
        const { title } = await api.addToShelf(file, { group: group.trim(), role });
        now = { ...now, taken: [...now.taken, title] };
      } catch (error) {
        // "Nothing was taken in." applies to this file alone, and is said once for all.
        const reason = (error as Error).message.replace(/ Nothing was taken in\.$/, '');
        now = { ...now, refused: [...now.refused, { name: file.webkitRelativePath || file.name, reason }] };
      }
      now = { ...now, done: now.done + 1 };
      setBatch(now);
    }
    setBatch({ ...now, of: now.done });
    await client.invalidateQueries({ queryKey: ['shelf'] });
  };
  const input = (ref: typeof files, label: string, whole: boolean) => (
    <input
      ref={(element) => {
        ref.current = element;
        if (whole) element?.setAttribute('webkitdirectory', '');
      }}
      type="file"
      multiple
      aria-label={label}
      accept={whole ? undefined : '.cube,.clf,.xml,.json,.txt'}
      style={{ display: 'none' }}
      onChange={(e) => {
        const list = [...(e.target.files ?? [])].filter((f) => !whole || READ.test(f.name));
        e.target.value = '';
        if (list.length) void bringIn(list);
        else if (whole)
          setBatch({ done: 0, of: 0, taken: [], refused: [{ name: 'This folder', reason: 'has no such files.' }] });
      }}
    />
  );
  return (
    <Sheet
      title="Bring in files"
      onClose={() => {
        stopped.current = true;
        onClose();
      }}
    >
      {batch ? (
        <View className="gap-2" role="status" aria-label="What was brought in">
          <Txt bold>
            {busy ? `${batch.done} of ${batch.of}` : `${batch.taken.length} on the shelf`}
            {batch.refused.length ? `, ${batch.refused.length} refused` : ''}
          </Txt>
          {busy ? <Progress label="Bringing in" value={batch.done / batch.of} /> : null}
          {batch.refused.map(({ name, reason }) => (
            <Txt key={name} size="sm">
              <Txt size="sm" bold>
                {name}:
              </Txt>{' '}
              {reason}
            </Txt>
          ))}
        </View>
      ) : (
        <Txt quiet>
          Tables as .cube or CLF, recipes, grades and profiles as JSON. Several at once, or a whole folder.
        </Txt>
      )}
      <GroupField value={group} groups={groups} onChange={setGroup} />
      <Choice label="Tables are" value={role} options={ROLES} onChange={setRole} />
      {input(files, 'Files for the shelf', false)}
      {input(folder, 'A folder for the shelf', true)}
      {busy ? (
        <Button title="Stop" onPress={() => void (stopped.current = true)} />
      ) : (
        <View className="flex-row gap-2">
          <Button
            title="Choose files"
            icon={FileUp}
            look="strong"
            className="flex-1"
            onPress={() => files.current?.click()}
          />
          <Button title="A folder" icon={FolderInput} className="flex-1" onPress={() => folder.current?.click()} />
        </View>
      )}
    </Sheet>
  );
}
