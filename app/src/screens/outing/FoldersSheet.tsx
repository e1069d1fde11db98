import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { View } from 'react-native';
import type { Source } from '@inkavo/core/model/source';
import { api } from '../../api/client';
import { Button, IconButton } from '../../ui/Button';
import { CheckRow } from '../../ui/Checkbox';
import { Field } from '../../ui/Field';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { X } from '../../ui/icons';

/** Folders of the server's machine that are allowed for importing clips, and for finished files. */
export function FoldersSheet({
  folders,
  onAllowed,
  onClose,
}: {
  folders: readonly Source[];
  onAllowed(source: Source): void;
  onClose(): void;
}) {
  const client = useQueryClient();
  const [path, setPath] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async <T,>(work: () => Promise<T>): Promise<T | undefined> => {
    try {
      const done = await work();
      await client.invalidateQueries({ queryKey: ['sources'] });
      setTrouble(null);
      return done;
    } catch (error) {
      setTrouble((error as Error).message);
      return undefined;
    }
  };
  const allow = async (): Promise<void> => {
    const source = await act(() => api.allowFolder(path));
    if (!source) return;
    setPath('');
    onAllowed(source);
  };
  return (
    <Sheet title="Folders of the server’s machine" onClose={onClose}>
      {folders.map((folder) => (
        <View key={folder.id}>
          <View className="min-h-[48px] flex-row items-center gap-2">
            <View className="min-w-0 flex-1">
              <Txt numberOfLines={2}>{folder.path}</Txt>
              {folder.present ? null : (
                <Txt size="sm" quiet>
                  It is not there now.
                </Txt>
              )}
            </View>
            <IconButton
              label={`Do not allow ${folder.path} any more`}
              icon={X}
              onPress={() => void act(() => api.forgetFolder(folder.id))}
            />
          </View>
          <CheckRow
            label={`Finished files may be put into ${folder.path}`}
            on={folder.writable}
            onChange={(on) => void act(() => api.setWritable(folder.id, on))}
          >
            <Txt className="flex-1">Finished files may be put here</Txt>
          </CheckRow>
        </View>
      ))}
      <Field
        label="Whole path of a folder"
        value={path}
        maxLength={1000}
        autoCapitalize="none"
        placeholder="/home/…"
        onChange={setPath}
        onSubmitEditing={() => void allow()}
      />
      {trouble ? <Trouble text={trouble} /> : null}
      <Button title="Allow this folder" look="strong" disabled={!path.trim()} onPress={() => void allow()} />
      <Txt size="sm" quiet>
        Clips are copied from it; nothing that lies in it is changed. Folders are allowed on the server’s machine
        itself, not over the network.
      </Txt>
    </Sheet>
  );
}
