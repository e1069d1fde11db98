import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'expo-router';
import { useState } from 'react';
import { ActivityIndicator, Image, Pressable, ScrollView, TextInput, View } from 'react-native';
import { api, thumbUrl, type OutingListed } from '../api/client';
import { Button } from '../ui/Button';
import { Empty, Trouble } from '../ui/Note';
import { Sheet } from '../ui/Sheet';
import { TopBar } from '../ui/TopBar';
import { Txt } from '../ui/Txt';
import { dayText, today } from './day';
import { ModeChoice } from './ModeChoice';
import { Plus, Upload } from '../ui/icons';

/** The days, newest first. */
export function Outings() {
  const router = useRouter();
  const { data, error } = useQuery({ queryKey: ['outings'], queryFn: api.outings });
  const [making, setMaking] = useState(false);
  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar title="Outings">
        <Button title="Exports" icon={Upload} look="bare" onPress={() => router.navigate('/deliver')} />
      </TopBar>
      <ScrollView contentContainerClassName="mx-auto w-full max-w-[860px] gap-3 p-3">
        {error ? <Trouble text={error.message} /> : null}
        {data?.map((o) => (
          <OutingRow key={o.id} outing={o} />
        ))}
        {data?.length === 0 ? (
          <Empty
            title="No outing yet"
            text="An outing holds the clips of one day. Start one and bring in clips from a card or by upload, or look at the demo first: four made-up clips with everything that goes wrong outdoors."
          >
            <Button title="New outing" icon={Plus} look="strong" onPress={() => setMaking(true)} />
            <OpenDemo />
          </Empty>
        ) : null}
        {data && data.length > 0 ? (
          <View className="flex-row flex-wrap gap-2">
            <Button title="New outing" icon={Plus} onPress={() => setMaking(true)} />
            {data.some((o) => o.name === 'Saltmark survey') ? null : <OpenDemo />}
          </View>
        ) : null}
        {!data && !error ? (
          <ActivityIndicator
            className="my-8"
            size="large"
            color="var(--ink)"
            accessibilityLabel="Loading the outings"
          />
        ) : null}
        <View className="mt-4 max-w-[420px]">
          <ModeChoice />
        </View>
      </ScrollView>
      {making ? <NewOuting onClose={() => setMaking(false)} /> : null}
    </View>
  );
}

function OutingRow({ outing }: { outing: OutingListed }) {
  const router = useRouter();
  const count = `${outing.clipCount} clip${outing.clipCount === 1 ? '' : 's'}`;
  return (
    <Pressable
      role="link"
      onPress={() => router.navigate(`/outing/${outing.id}`)}
      className="overflow-hidden rounded border-stroke border-line bg-surface active:opacity-70"
    >
      <View className="h-[92px] flex-row bg-surround">
        {outing.clips.map((c) => (
          <Image key={c.id} source={{ uri: thumbUrl(c, true) }} className="h-full flex-1" resizeMode="cover" alt="" />
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
        <Txt quiet>{count}</Txt>
      </View>
    </Pressable>
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
      router.navigate(`/outing/${outing.id}`);
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
      router.navigate(`/outing/${outing.id}`);
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  return (
    <Sheet title="New outing" onClose={onClose}>
      <Field label="Name" value={name} onChange={setName} autoFocus />
      <Field label="Place" value={place} onChange={setPlace} />
      <Field label="Day (YYYY-MM-DD)" value={date} onChange={setDate} />
      {trouble ? <Trouble text={trouble} /> : null}
      <Button title="Make it" look="strong" disabled={!name.trim()} onPress={() => void make()} />
    </Sheet>
  );
}

function Field({
  label,
  value,
  onChange,
  autoFocus,
}: {
  label: string;
  value: string;
  onChange(text: string): void;
  autoFocus?: boolean;
}) {
  return (
    <View className="gap-1">
      <Txt size="sm" quiet>
        {label}
      </Txt>
      <TextInput
        value={value}
        onChangeText={onChange}
        autoFocus={autoFocus}
        aria-label={label}
        className="h-[48px] rounded border-stroke border-edge bg-surface px-3 font-sans text-base text-ink"
      />
    </View>
  );
}
