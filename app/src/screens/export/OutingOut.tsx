import { useState } from 'react';
import { View } from 'react-native';
import { DOCUMENT_INFO, DOCUMENTS, type DocumentForm } from '@inkavo/core/model/document';
import { api } from '../../api/client';
import { Button } from '../../ui/Button';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { FileVideo } from '../../ui/icons';
import { keptFirst } from './keptFirst';
import { useQueued } from './useQueued';

/** Deliveries of a whole outing: a film, or a document about all its clips. */
export function OutingOut({
  outingId,
  clipIds,
  onFilm,
  onClose,
}: {
  outingId: string;
  /** In order. */
  clipIds: readonly string[];
  onFilm(): void;
  onClose(): void;
}) {
  const queued = useQueued(onClose);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [making, setMaking] = useState<DocumentForm | null>(null);
  const make = async (form: DocumentForm): Promise<void> => {
    setMaking(form);
    setTrouble(null);
    try {
      await keptFirst(clipIds);
      await api.makeDocument({ outingId, clipIds: [...clipIds], form });
      queued();
    } catch (error) {
      setMaking(null);
      setTrouble((error as Error).message);
    }
  };
  return (
    <Sheet title={`Make of ${clipIds.length} clip${clipIds.length === 1 ? '' : 's'}`} onClose={onClose}>
      {trouble ? <Trouble text={trouble} /> : null}
      <Button title="A film …" icon={FileVideo} look="strong" onPress={onFilm} />
      {DOCUMENTS.map((form) => (
        <View key={form} className="flex-row items-center gap-3">
          <Button
            title={making === form ? 'Queueing …' : DOCUMENT_INFO[form].title}
            className="w-[180px]"
            disabled={making !== null}
            onPress={() => void make(form)}
          />
          <Txt size="sm" quiet className="min-w-0 flex-1">
            {DOCUMENT_INFO[form].use}
          </Txt>
        </View>
      ))}
      <Txt size="sm" quiet>
        Each is made in the background and lies under Exports. Timelines look for the originals in a folder “media”
        beside them.
      </Txt>
    </Sheet>
  );
}
