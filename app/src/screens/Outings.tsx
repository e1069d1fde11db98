import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useRouter } from 'expo-router';
import { useState } from 'react';
import { Pressable, View } from 'react-native';
import { api, thumbUrl, type OutingListed } from '../api/client';
import { Button, IconButton } from '../ui/Button';
import { DayField, Field } from '../ui/Field';
import { Empty, Loading, Trouble } from '../ui/Note';
import { holdsWords } from '../ui/holdsWords';
import { SearchField } from '../ui/SearchField';
import { Sheet } from '../ui/Sheet';
import { Thumb } from '../ui/Thumb';
import { TopBar } from '../ui/TopBar';
import { Txt } from '../ui/Txt';
import { UndoButtons } from '../ui/UndoButtons';
import { VirtualRows, type VirtualRow } from '../ui/VirtualRows';
import { dayText, today } from './day';
import { DevicesSheet } from './DevicesSheet';
import { ModeChoice } from './ModeChoice';
import { RemovedSheet } from './RemovedSheet';
import { Library, MonitorSmartphone, Plus, Trash, Upload } from '../ui/icons';

const STRIP = { width: '100%', height: '100%', objectFit: 'cover', display: 'block' } as const;

/** Number of outings from which a search field is shown. */
const LOOKED_FOR_FROM = 8;
/** Estimated heights of rows in pixels. */
const BUTTON = 44;
const ROW = 160;

/** The outings, newest first. */
export function Outings() {
  const router = useRouter();
  const { data, error } = useQuery({ queryKey: ['outings'], queryFn: api.outings });
  const [sheet, setSheet] = useState<'new' | 'removed' | 'devices' | null>(null);
  const setMaking = (on: boolean): void => setSheet(on ? 'new' : null);
  const [search, setSearch] = useState('');
  const isMany = (data?.length ?? 0) >= LOOKED_FOR_FROM;
  const shown = data?.filter((o) =>
    holdsWords(`${o.name} ${o.place} ${dayText(o.date)} ${o.date}`, isMany ? search : ''),
  );
  const above = (
    <View className="flex-row gap-2">
      <Button title="New outing" icon={Plus} onPress={() => setMaking(true)} />
      {isMany ? (
        <SearchField label="Search outings" hint="Name, place or day" value={search} onChange={setSearch} />
      ) : null}
    </View>
  );
  const rows: VirtualRow[] = [
    ...(error ? [{ key: 'error', height: BUTTON, draw: () => <Trouble text={error.message} /> }] : []),
    ...(data?.length ? [{ key: 'above', height: BUTTON, draw: () => above }] : []),
    ...(shown ?? []).map((o) => ({ key: o.id, height: ROW, draw: () => <OutingRow outing={o} /> })),
    ...(data?.length && shown?.length === 0
      ? [{ key: 'none', height: BUTTON, draw: () => <Txt quiet>No outing fits.</Txt> }]
      : []),
  ];
  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar title="Outings">
        <UndoButtons place="outings" />
        <IconButton label="Removed: put back or delete" icon={Trash} onPress={() => setSheet('removed')} />
        <IconButton label="Shelf: recipes, tables, profiles" icon={Library} onPress={() => router.push('/shelf')} />
        <Button title="Exports" icon={Upload} look="bare" onPress={() => router.push('/exports')} />
      </TopBar>
      <VirtualRows name="outings" rows={rows} gap={12}>
        {data?.length === 0 ? (
          <Empty
            title="No outing yet"
            text="An outing holds the clips of one day. Start one and bring in clips from a card or by upload, or look at the demo first: made-up clips with everything that goes wrong outdoors."
          >
            <Button title="New outing" icon={Plus} look="strong" onPress={() => setMaking(true)} />
            <OpenDemo />
          </Empty>
        ) : null}
        {data && data.length > 0 && !data.some((o) => o.name === 'Saltmark survey') ? (
          <View className="mt-3 flex-row">
            <OpenDemo />
          </View>
        ) : null}
        {!data && !error ? <Loading what="the outings" /> : null}
        <View className="mt-4 max-w-[420px] gap-3">
          <Button title="Work from another device" icon={MonitorSmartphone} onPress={() => setSheet('devices')} />
          <ModeChoice />
        </View>
      </VirtualRows>
      {sheet === 'new' ? <NewOuting onClose={() => setSheet(null)} /> : null}
      {sheet === 'devices' ? <DevicesSheet onClose={() => setSheet(null)} /> : null}
      {sheet === 'removed' ? <RemovedSheet onClose={() => setSheet(null)} /> : null}
    </View>
  );
}

function OutingRow({ outing }: { outing: OutingListed }) {
  const count = `${outing.clipCount} clip${outing.clipCount === 1 ? '' : 's'}`;
  return (
    <Link href={`/outing/${outing.id}`} asChild>
      <Pressable className="overflow-hidden rounded border-stroke border-line bg-surface active:opacity-70">
        <View className="h-[92px] flex-row bg-surround">
          {outing.clips.map((c) => (
            <View key={c.id} className="h-full flex-1">
              <Thumb src={thumbUrl(c, true)} style={STRIP} />
            </View>
          ))}
          {outing.clips.length === 0 ? (
            <View className="flex-1 items-center justify-center">
              <Txt ink="text-white">No clips yet</Txt>
            </View>
          ) : null}
        </View>
        <View className="flex-row items-baseline justify-between gap-3 px-3 py-2">
          <View className="min-w-0 shrink">
            <Txt bold size="lg" numberOfLines={1}>
              {outing.name}
            </Txt>
            <Txt quiet numberOfLines={1}>
              {[dayText(outing.date), outing.place].filter(Boolean).join(' · ')}
            </Txt>
          </View>
          <Txt quiet className="shrink-0">
            {count}
          </Txt>
        </View>
      </Pressable>
    </Link>
  );
}

function OpenDemo() {
  const router = useRouter();
  const client = useQueryClient();
  const [trouble, setTrouble] = useState<string | null>(null);
  const open = async (): Promise<void> => {
    try {
      const { outing } = await api.demo();
      void client.invalidateQueries({ queryKey: ['outings'] });
      router.push(`/outing/${outing.id}`);
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  return (
    <>
      <Button title="Open the demo" onPress={() => void open()} />
      {trouble ? <Trouble text={trouble} /> : null}
    </>
  );
}

function NewOuting({ onClose }: { onClose(): void }) {
  const router = useRouter();
  const client = useQueryClient();
  const [name, setName] = useState('');
  const [place, setPlace] = useState('');
  const [date, setDate] = useState(today());
  const [trouble, setTrouble] = useState<string | null>(null);
  const make = async (): Promise<void> => {
    try {
      const outing = await api.newOuting({ name, place, date });
      void client.invalidateQueries({ queryKey: ['outings'] });
      onClose();
      router.push(`/outing/${outing.id}`);
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  const submit = (): void => {
    if (name.trim()) void make();
  };
  return (
    <Sheet title="New outing" onClose={onClose}>
      <Field label="Name" value={name} onChange={setName} autoFocus onSubmitEditing={submit} />
      <Field label="Place" value={place} onChange={setPlace} onSubmitEditing={submit} />
      <DayField label="Day" value={date} onChange={setDate} />
      {trouble ? <Trouble text={trouble} /> : null}
      <Button title="Make it" look="strong" disabled={!name.trim()} onPress={() => void make()} />
    </Sheet>
  );
}
