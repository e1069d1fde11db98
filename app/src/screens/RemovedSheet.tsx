import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { ActivityIndicator, View } from 'react-native';
import type { Removed } from '@inkavo/core/model/removed';
import { api } from '../api/client';
import { Button } from '../ui/Button';
import { Trouble } from '../ui/Note';
import { Sheet } from '../ui/Sheet';
import { Txt } from '../ui/Txt';
import { RotateCcw, Trash } from '../ui/icons';

const DAY = 86_400;
const KINDS: Record<Removed['kind'], string> = {
  outing: 'Outing',
  camera: 'Camera',
  clip: 'Clip',
  file: 'Export',
  shelf: 'Shelf',
  kept: 'Kept frame',
};
const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;

/** When something will be deleted permanently, in words. */
export function goesText(goesAt: number, now: number): string {
  const days = Math.ceil((goesAt - now) / DAY);
  return days <= 0 ? 'goes today' : days === 1 ? 'goes tomorrow' : `goes in ${days} days`;
}

/** Removed items: restored, or permanently deleted with their files. */
export function RemovedSheet({ onClose }: { onClose(): void }) {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: ['removed'], queryFn: api.removed, staleTime: 0 });
  const [now] = useState(() => Date.now() / 1000);
  const [sure, setSure] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const work = async (call: Promise<unknown>): Promise<void> => {
    try {
      await call;
      setTrouble(null);
    } catch (failure) {
      setTrouble((failure as Error).message);
    }
    void client.invalidateQueries();
  };
  const bytes = data?.reduce((sum, r) => sum + r.bytes, 0) ?? 0;
  return (
    <Sheet title="Removed" onClose={onClose}>
      {error || trouble ? <Trouble text={trouble ?? error!.message} /> : null}
      {!data && !error ? <ActivityIndicator color="var(--ink)" accessibilityLabel="Loading what was removed" /> : null}
      {data?.length === 0 ? <Txt quiet>Nothing was removed in the last seven days.</Txt> : null}
      {data?.map((item) => (
        <View
          key={`${item.kind} ${item.id}`}
          className="flex-row items-center gap-3 rounded border-stroke border-line bg-surface py-2 pl-3 pr-2"
        >
          <View className="min-w-0 flex-1">
            <Txt bold numberOfLines={1}>
              {item.name}
            </Txt>
            <Txt size="sm" quiet>
              {[KINDS[item.kind], item.outingName, megabytes(item.bytes), goesText(item.goesAt, now)]
                .filter(Boolean)
                .join(' · ')}
            </Txt>
          </View>
          <Button
            title="Put back"
            icon={RotateCcw}
            aria-label={`Put back ${item.name}`}
            onPress={() => void work(api.putBack(item.kind, [item.id]))}
          />
        </View>
      ))}
      {data?.length ? (
        <Button
          title={sure ? `Delete for good: ${megabytes(bytes)}` : 'Delete all of it now …'}
          icon={Trash}
          onPress={() => {
            if (!sure) return setSure(true);
            setSure(false);
            void work(api.deleteRemoved());
          }}
        />
      ) : null}
      {sure ? <Txt size="sm">This cannot be undone. Files that other clips use stay.</Txt> : null}
    </Sheet>
  );
}
