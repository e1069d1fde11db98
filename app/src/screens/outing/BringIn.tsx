import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { ActivityIndicator, Pressable, View } from 'react-native';
import { api } from '../../api/client';
import { useUploads } from '../../api/upload';
import { Button } from '../../ui/Button';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { Check, FileUp } from '../../ui/icons';

/** Brings clips in, from the memory card or from this device. */
export function BringIn({ outingId, onClose }: { outingId: string; onClose(): void }) {
  const { data: card, error } = useQuery({ queryKey: ['card'], queryFn: api.card, staleTime: 0 });
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [trouble, setTrouble] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const send = useUploads((s) => s.send);
  const wanted = card?.files.filter((f) => !left.has(f.path)) ?? [];
  const bytes = wanted.reduce((sum, f) => sum + f.bytes, 0);

  const bring = async (): Promise<void> => {
    try {
      await api.importFromCard(
        outingId,
        wanted.map((f) => f.path),
      );
      onClose();
    } catch (failure) {
      setTrouble((failure as Error).message);
    }
  };
  const upload = (files: FileList | null): void => {
    if (!files?.length) return;
    send(outingId, [...files]);
    onClose();
  };

  return (
    <Sheet title="Bring in clips" onClose={onClose}>
      {error || trouble ? <Trouble text={trouble ?? error!.message} /> : null}
      {card?.present ? (
        <>
          <Txt quiet>On the card</Txt>
          {card.files.map((file) => {
            const on = !left.has(file.path);
            return (
              <Pressable
                key={file.path}
                role="checkbox"
                aria-checked={on}
                aria-label={file.name}
                onPress={() => setLeft(new Set(on ? [...left, file.path] : [...left].filter((p) => p !== file.path)))}
                className="min-h-[48px] flex-row items-center gap-3 rounded border-stroke border-edge bg-surface px-3"
              >
                <View
                  className={`h-[24px] w-[24px] items-center justify-center rounded border-stroke border-edge ${on ? 'bg-accent' : ''}`}
                >
                  {on ? <Check size={18} color="var(--on-accent)" aria-hidden /> : null}
                </View>
                <View className="min-w-0 flex-1">
                  <Txt numberOfLines={1}>{file.name}</Txt>
                  <Txt size="sm" quiet>
                    {file.folder}
                  </Txt>
                </View>
                <Txt quiet>{(file.bytes / 1e6).toFixed(1)} MB</Txt>
              </Pressable>
            );
          })}
          <Button
            title={`Bring in ${wanted.length} · ${(bytes / 1e6).toFixed(1)} MB`}
            look="strong"
            disabled={wanted.length === 0}
            onPress={() => void bring()}
          />
        </>
      ) : null}
      {card && !card.present ? <Txt quiet>No card is in.</Txt> : null}
      {!card && !error ? <ActivityIndicator color="var(--ink)" accessibilityLabel="Reading the card" /> : null}
      <input
        ref={input}
        type="file"
        accept="video/*,.mkv,.mts,.mxf"
        multiple
        aria-label="Files on this device"
        data-testid="file-input"
        onChange={(e) => upload(e.target.files)}
        style={{ display: 'none' }}
      />
      <Button title="Choose files on this device" icon={FileUp} onPress={() => input.current?.click()} />
    </Sheet>
  );
}
