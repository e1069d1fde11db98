import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { ActivityIndicator, View } from 'react-native';
import { joined } from '@inkavo/core/model/lists';
import type { Kept } from '@inkavo/core/model/kept';
import { fps } from '@inkavo/core/model/facts';
import { api, keptStillsUrl, keptUrl } from '../../api/client';
import { useBench } from '../../state/bench';
import { act } from '../../state/commands';
import { compareWithKept } from '../../state/keptFrame';
import { tell } from '../../state/messages';
import { Button, IconButton } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Columns2, Download, ImagePlus, RotateCcw, Trash } from '../../ui/icons';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Thumb } from '../../ui/Thumb';
import { Txt } from '../../ui/Txt';
import { timeText } from './timeText';

const PICTURE = { width: 128, height: 72, objectFit: 'cover', display: 'block', borderRadius: 4 } as const;

/**
 * Frames kept with their grade, of all clips of the outing: for comparison, and, for this clip, as variants to go back
 * to.
 */
export function KeptSheet({ onClose }: { onClose(): void }) {
  const client = useQueryClient();
  const { clip, outing } = useBench((s) => s.opened!);
  const frame = useBench((s) => s.frame);
  const { data, error } = useQuery({ queryKey: ['kept', outing.id], queryFn: () => api.kept(outing.id) });
  const [name, setName] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const attempt = async (work: Promise<unknown>): Promise<boolean> => {
    try {
      await work;
      setTrouble(null);
      return true;
    } catch (failure) {
      setTrouble((failure as Error).message);
      return false;
    }
  };
  const keep = async (): Promise<void> => {
    const { lists } = useBench.getState();
    const request = { name, frame, steps: joined(lists), own: lists.clip };
    if (!(await attempt(api.keep(clip.id, request)))) return;
    setName('');
    void client.invalidateQueries({ queryKey: ['kept', outing.id] });
  };
  const takeUp = async ({ id, name: what }: Kept): Promise<void> => {
    const worked = await attempt(api.keptWhole(id).then(({ own }) => useBench.getState().setClipSteps(own)));
    if (!worked) return;
    tell({
      key: 'kept',
      text: `The clip has the steps of "${what}". Undo brings back those that it had.`,
      fades: true,
    });
    onClose();
  };
  const remove = ({ id, name: what }: Kept): void =>
    void act(
      {
        place: outing.id,
        what: `removal of ${what}`,
        done: [{ on: 'remove', kind: 'kept', ids: [id] }],
        undone: [{ on: 'back', kind: 'kept', ids: [id] }],
      },
      `${what} was removed.`,
    );
  const own = data?.filter((k) => k.clipId === clip.id) ?? [];
  const others = data?.filter((k) => k.clipId !== clip.id) ?? [];
  const row = (kept: Kept) => (
    <View
      key={kept.id}
      role="group"
      aria-label={kept.name}
      className="gap-2 rounded border-stroke border-line bg-surface p-2"
    >
      <View className="flex-row items-center gap-3">
        <Thumb src={keptUrl(kept.id, 320)} style={PICTURE} />
        <View className="min-w-0 flex-1">
          <Txt bold numberOfLines={2}>
            {kept.name}
          </Txt>
          <Txt size="sm" quiet numberOfLines={1}>
            {kept.clipId === clip.id ? `at ${timeText(kept.frame, fps(clip.facts))}` : kept.clipName}
          </Txt>
        </View>
        <IconButton label={`Remove ${kept.name}`} icon={Trash} onPress={() => remove(kept)} />
      </View>
      <View className="flex-row gap-2">
        <Button
          title="Hold against"
          icon={Columns2}
          className="flex-1"
          onPress={() => void attempt(compareWithKept(kept.id)).then((done) => done && onClose())}
        />
        {kept.clipId === clip.id ? (
          <Button title="Take its steps" icon={RotateCcw} className="flex-1" onPress={() => void takeUp(kept)} />
        ) : null}
      </View>
    </View>
  );
  return (
    <Sheet title="Kept frames and variants" onClose={onClose}>
      {error || trouble ? <Trouble text={trouble ?? error!.message} /> : null}
      <Field label="Name" value={name} onChange={setName} placeholder="Warmer, softer sky" />
      <Button
        title="Keep this frame with its steps"
        icon={ImagePlus}
        look="strong"
        disabled={!name.trim()}
        onPress={() => void keep()}
      />
      {!data && !error ? <ActivityIndicator color="var(--ink)" accessibilityLabel="Fetching the kept frames" /> : null}
      {data?.length === 0 ? (
        <Txt quiet>None yet. A kept frame is there on every device, and its steps can be taken up again.</Txt>
      ) : null}
      {data && data.length > 0 ? (
        <a
          href={keptStillsUrl(
            data.map((k) => k.id),
            'png',
          )}
          download
          style={{ textDecoration: 'none' }}
        >
          <View className="min-h-[44px] flex-row items-center justify-center gap-2 rounded border-stroke border-edge bg-surface px-4">
            <Download size={20} color="var(--ink)" aria-hidden />
            <Txt>{data.length === 1 ? 'Save it' : `Save all ${data.length}`} as full-size pictures</Txt>
          </View>
        </a>
      ) : null}
      {own.length ? <Txt bold>Of this clip</Txt> : null}
      {own.map(row)}
      {others.length ? <Txt bold>Of other clips</Txt> : null}
      {others.map(row)}
    </Sheet>
  );
}
