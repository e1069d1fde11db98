import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { View } from 'react-native';
import type { Source } from '@inkavo/core/model/source';
import { api } from '../../api/client';
import { tellTrouble } from '../../state/messages';
import { Button } from '../../ui/Button';
import { ChoiceList } from '../../ui/Choice';
import { Sheet } from '../../ui/Sheet';
import { FolderInput } from '../../ui/icons';
import { FoldersSheet } from '../outing/FoldersSheet';

const NOWHERE = 'nowhere else';

/** Folders of the server's machine, and those that may receive finished files. */
function useFolders(): { folders: Source[]; targets: Source[] } {
  const { data } = useQuery({ queryKey: ['sources'], queryFn: api.sources });
  const folders = data?.filter((s) => s.kind === 'folder') ?? [];
  return { folders, targets: folders.filter((s) => s.writable) };
}

/** The folder to which every finished file is also copied. */
export function IntoFolder() {
  const client = useQueryClient();
  const { folders, targets } = useFolders();
  const { data: queue } = useQuery({ queryKey: ['queue'], queryFn: api.queue, staleTime: 0 });
  const [open, setOpen] = useState<'choose' | 'folders' | null>(null);
  if (!queue) return null;
  const into = folders.find((f) => f.id === queue.into);
  const choose = (id: string | null): void =>
    void api
      .setQueue({ into: id })
      .catch((error: Error) => tellTrouble('queue', error.message))
      .finally(() => client.invalidateQueries({ queryKey: ['queue'] }));
  return (
    <>
      <Button
        title={into ? `Finished files are also put into ${into.name}` : 'Also put finished files into a folder …'}
        icon={FolderInput}
        look="bare"
        onPress={() => setOpen('choose')}
      />
      {open ? (
        <Sheet title="Where finished files also go" onClose={() => setOpen(null)}>
          <ChoiceList
            label="Folder"
            value={into?.id ?? NOWHERE}
            options={[
              { value: NOWHERE, title: 'Nowhere else', note: 'they stay in this list' },
              ...targets.map((t) => ({ value: t.id, title: t.name, note: t.present ? t.path : 'not there now' })),
            ]}
            onChange={(id) => choose(id === NOWHERE ? null : id)}
          />
          <Button title="A folder of the server’s machine …" look="bare" onPress={() => setOpen('folders')} />
        </Sheet>
      ) : null}
      {open === 'folders' ? (
        <FoldersSheet folders={folders} onAllowed={() => undefined} onClose={() => setOpen('choose')} />
      ) : null}
    </>
  );
}

/** Copies a finished file to a folder. */
export function CopyInto({ jobId, name }: { jobId: string; name: string }) {
  const client = useQueryClient();
  const { targets } = useFolders();
  if (targets.length === 0) return null;
  return (
    <View className="flex-row flex-wrap gap-2">
      {targets.map((t) => (
        <Button
          key={t.id}
          title={`Put into ${t.name}`}
          aria-label={`Put ${name} into ${t.name}`}
          icon={FolderInput}
          onPress={() =>
            void api
              .copyFile(jobId, t.id)
              .catch((error: Error) => tellTrouble('queue', error.message))
              .finally(() => client.invalidateQueries({ queryKey: ['jobs'] }))
          }
        />
      ))}
    </View>
  );
}
