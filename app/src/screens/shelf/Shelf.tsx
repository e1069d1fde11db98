import { useQuery } from '@tanstack/react-query';
import { useEffect, useEffectEvent, useState } from 'react';
import { ActivityIndicator, View } from 'react-native';
import type { ShelfItem, ShelfKind } from '@inkavo/core/model/shelf';
import { api } from '../../api/client';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Field } from '../../ui/Field';
import { FileUp, Grid3x3, Plus } from '../../ui/icons';
import { Trouble } from '../../ui/Note';
import { Txt } from '../../ui/Txt';
import { holdsWords } from '../../ui/holdsWords';
import { useSeen } from '../../ui/useSeen';
import { ChartSheet } from './ChartSheet';
import { FilesSheet } from './FilesSheet';
import { HeldUp } from './HeldUp';
import { ItemSheet } from './ItemSheet';
import { noteOf } from './notes';
import { ProfileSheet } from './ProfileSheet';
import { ShelfCard } from './ShelfCard';
import { BUILT_IN, KIND_TITLES, useShelf, type Likely } from './shelfUse';

/** Number of items rendered initially, and increment. */
const DRAWN = 36;
/** Distance in pixels from their end at which more are rendered. */
const AHEAD = 1000;
type Heading = [group: string, items: ShelfItem[]];

/** Number of items from which a search field is shown. */
const SEARCHED_FROM = 12;
const NARROWEST = 150;
const FOOTAGE = 'By the footage';

const EMPTY: Record<ShelfKind, string> = {
  recipe: 'No recipe yet. Copy steps of a clip and keep them as one, or bring in a recipe or grade file.',
  lut: 'No table is here yet. Bring in .cube or CLF files, many at once.',
  profile: 'No profile fits.',
};

/** Items by group, in order of appearance; those without a group last. */
function grouped(items: readonly ShelfItem[]): [string, ShelfItem[]][] {
  const groups = new Map<string, ShelfItem[]>();
  for (const item of items) groups.set(item.group, [...(groups.get(item.group) ?? []), item]);
  return [...groups].sort(([a], [b]) => Number(a === '') - Number(b === ''));
}

/** Recipes, tables and profiles, each with a preview on the frame. */
export function Shelf({
  kinds,
  wide,
  onDone,
}: {
  kinds: readonly ShelfKind[];
  /** The picture is beside the items, not above them. */
  wide?: boolean;
  onDone?(): void;
}) {
  const use = useShelf();
  const { data, error } = useQuery({ queryKey: ['shelf'], queryFn: api.shelf });
  const [kind, setKind] = useState(kinds[0]);
  const [search, setSearch] = useState('');
  const [first, setFirst] = useState<ShelfItem | null>(null);
  const [second, setSecond] = useState<ShelfItem | null>(null);
  const [pairing, setPairing] = useState(false);
  const [open, setOpen] = useState<'files' | 'profile' | 'chart' | ShelfItem | null>(null);
  const all: ShelfItem[] = [...(data ?? []), ...(data ? BUILT_IN : [])].filter((i) => i.kind === kind);
  const fits = (i: ShelfItem): boolean => holdsWords(`${i.title} ${i.group} ${noteOf(i)}`, search);
  const found = all.filter(fits);
  const likely = use?.likely?.found?.map((l) => l.item).filter(fits) ?? [];
  // Incremental rendering while scrolling: hundreds at once would block input.
  const list = `${kind} ${search}`;
  const [grown, setGrown] = useState({ list, most: DRAWN });
  const most = grown.list === list ? grown.most : DRAWN;
  const headings = firstOf(most, [
    ...(likely.length ? [[FOOTAGE, likely] as Heading] : []),
    ...grouped(found.filter((i) => !likely.some((l) => l.id === i.id))),
  ]);
  const drop = (): void => {
    setFirst(null);
    setSecond(null);
    setPairing(false);
  };
  const take = (item: ShelfItem): void => {
    use?.take?.run(item);
    onDone?.();
  };
  const tap = (item: ShelfItem): void => {
    if (!use) return setOpen(item);
    if (pairing && first && item.id !== first.id) {
      setSecond(item);
      setPairing(false);
    } else if (item.id === first?.id && !second && use.take) take(item);
    else {
      setFirst(item);
      setSecond(null);
      setPairing(false);
    }
  };
  const kindChoice =
    kinds.length > 1 ? (
      <Choice
        label="On the shelf"
        value={kind}
        options={kinds.map((k) => ({ value: k, title: KIND_TITLES[k] }))}
        onChange={(k) => {
          setKind(k);
          drop();
        }}
      />
    ) : null;
  const markOf = (item: ShelfItem): string | null => {
    const { id } = item;
    if (id === first?.id) return second ? 'left' : 'held up';
    if (id === second?.id) return 'right';
    const likely = use?.likely?.found?.find((l) => l.item.id === item.id);
    if (use?.inUse?.(item)) return 'in use';
    return likely ? `${Math.min(99, Math.round(100 * likely.likelihood))} %` : null;
  };
  return (
    <View className={wide ? 'flex-row gap-4' : 'gap-3'}>
      {wide ? null : kindChoice}
      {use ? (
        <View className={`sticky top-0 z-10 bg-ground pb-1 ${wide ? 'flex-[3] self-start' : ''}`}>
          <HeldUp
            use={use}
            first={first}
            second={second}
            pairing={pairing}
            onPair={(on) => {
              setPairing(on);
              setSecond(null);
            }}
            onTake={take}
          />
        </View>
      ) : null}
      <View className={`gap-3 ${wide && use ? 'flex-[2]' : ''} ${wide ? 'min-w-0' : ''}`}>
        {wide ? kindChoice : null}
        {all.length >= SEARCHED_FROM ? <Field label="Search" value={search} onChange={setSearch} /> : null}
        {error ? <Trouble text={error.message} /> : null}
        {!data && !error ? <ActivityIndicator color="var(--ink)" accessibilityLabel="Fetching the shelf" /> : null}
        {data && found.length === 0 ? (
          <Txt quiet>{search.trim() ? `Nothing fits "${search.trim()}".` : EMPTY[kind]}</Txt>
        ) : null}
        {use?.likely ? <Footage likely={use.likely} /> : null}
        {headings.map(([group, items]) => (
          <View key={group} role="group" aria-label={group || 'Without a group'} className="gap-2">
            {group ? (
              <Txt bold role="heading" aria-level={3}>
                {group}
              </Txt>
            ) : null}
            <div
              style={{
                display: 'grid',
                gap: 10,
                gridTemplateColumns: `repeat(auto-fill, minmax(${NARROWEST}px, 1fr))`,
              }}
            >
              {items.map((item) => (
                <ShelfCard
                  key={item.id}
                  item={item}
                  mark={markOf(item)}
                  onPress={() => tap(item)}
                  onMore={() => setOpen(item)}
                />
              ))}
            </div>
          </View>
        ))}
        {found.length > most ? (
          <End key={`${list} ${most}`} onSeen={() => setGrown({ list, most: most + DRAWN })} />
        ) : null}
        {kind === 'profile' ? (
          <>
            <Button title="A profile by its numbers …" icon={Plus} onPress={() => setOpen('profile')} />
            {use ? (
              <Button title="A profile from a filmed chart …" icon={Grid3x3} onPress={() => setOpen('chart')} />
            ) : null}
          </>
        ) : null}
        <Button title="Bring in files …" icon={FileUp} onPress={() => setOpen('files')} />
      </View>
      {open === 'files' ? <FilesSheet groups={groupsOf(data)} onClose={() => setOpen(null)} /> : null}
      {open === 'chart' && use ? <ChartSheet use={use} groups={groupsOf(data)} onClose={() => setOpen(null)} /> : null}
      {open === 'profile' ? <ProfileSheet groups={groupsOf(data)} onClose={() => setOpen(null)} /> : null}
      {open && typeof open === 'object' ? (
        <ItemSheet item={open} groups={groupsOf(data)} onRemoved={drop} onClose={() => setOpen(null)} />
      ) : null}
    </View>
  );
}

/** Likelihood of no profile from which that is mentioned. */
const UNKNOWN_FROM = 0.2;

/** The rendered items, under their headings. */
function firstOf(most: number, headings: readonly Heading[]): Heading[] {
  let left = most;
  return headings.flatMap(([group, items]) => {
    const shown = items.slice(0, left);
    left -= shown.length;
    return shown.length ? [[group, shown] as Heading] : [];
  });
}

/** Sentinel below the rendered items, which reports when it nears the window. */
function End({ onSeen }: { onSeen(): void }) {
  const [ref, seen] = useSeen<HTMLDivElement>();
  const tell = useEffectEvent(onSeen);
  useEffect(() => {
    if (seen) tell();
  }, [seen]);
  return (
    <div style={{ position: 'relative' }}>
      <div ref={ref} style={{ position: 'absolute', bottom: 0, width: 1, height: AHEAD, pointerEvents: 'none' }} />
    </div>
  );
}

/** Findings from the footage, in words. */
function Footage({ likely: { found, sure, unknown } }: { likely: Likely }) {
  if (!found)
    return (
      <View className="flex-row items-center gap-3" role="status">
        <ActivityIndicator color="var(--ink)" />
        <Txt>Reading the footage …</Txt>
      </View>
    );
  if (found.length === 0) return null;
  const [best] = found;
  const many = found.length === 1 ? 'this one' : `one of these ${found.length}`;
  return (
    <Txt size="sm" role="status">
      {sure
        ? `${best.item.title}, ${Math.min(99, Math.round(100 * best.likelihood))} % sure. `
        : `Not sure: ${many} fits best. `}
      {best.reason}
      {unknown >= UNKNOWN_FROM
        ? ` That it was recorded with none of these is ${Math.round(100 * unknown)} % likely: the first pass then finds a curve from the clip.`
        : ''}
    </Txt>
  );
}

const groupsOf = (items: readonly ShelfItem[] = []): string[] =>
  [...new Set(items.map((i) => i.group).filter(Boolean))].sort();
