import { Pressable, View } from 'react-native';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { EllipsisVertical, Grid3x3, ListChecks, Sun } from '../../ui/icons';
import { Txt } from '../../ui/Txt';
import { useSeen } from '../../ui/useSeen';
import { usePreview } from './preview';
import { noteOf } from './notes';
import { isBuiltIn, useShelf, type ShelfUse } from './shelfUse';

const PICTURE = { position: 'absolute', inset: 0, width: '100%', height: '100%', objectFit: 'cover' } as const;
const WIDTH = 320;
const ICONS = { recipe: ListChecks, lut: Grid3x3, profile: Sun };

function SmallPicture({ use, item }: { use: ShelfUse; item: ShelfItem }) {
  const [ref, seen] = useSeen<HTMLDivElement>();
  const { data, error } = usePreview(use.on, use.put(item), WIDTH, seen);
  return (
    <div ref={ref} style={{ position: 'absolute', inset: 0 }}>
      {data ? <img src={data} alt="" draggable={false} style={PICTURE} /> : null}
      {error ? (
        <Txt size="sm" ink="text-white" className="m-2">
          {error.message}
        </Txt>
      ) : null}
    </div>
  );
}

/** A shelf item with a preview on the frame. A tap focuses it, a second one takes it. */
export function ShelfCard({
  item,
  mark,
  onPress,
  onMore,
}: {
  item: ShelfItem;
  /** Its role in a comparison, or that it is in use. */
  mark: string | null;
  onPress(): void;
  onMore(): void;
}) {
  const use = useShelf();
  const Icon = ICONS[item.kind];
  return (
    <View className="min-w-0">
      <Pressable
        role="button"
        aria-pressed={mark !== null}
        aria-label={`${item.title}${mark ? `, ${mark}` : ''}`}
        onPress={onPress}
        className={`overflow-hidden rounded border-2 bg-surface active:opacity-70 ${mark ? 'border-accent' : 'border-line'}`}
      >
        <View style={{ aspectRatio: 16 / 9 }} className="items-center justify-center bg-surround">
          {use ? <SmallPicture use={use} item={item} /> : <Icon size={28} color="#ffffff" aria-hidden />}
          {mark ? (
            <View className="absolute left-1 top-1 rounded bg-accent px-2">
              <Txt size="sm" bold ink="text-on-accent">
                {mark}
              </Txt>
            </View>
          ) : null}
        </View>
        <View className={`h-[52px] justify-center pl-2 ${isBuiltIn(item) ? 'pr-2' : 'pr-[46px]'}`}>
          <Txt bold numberOfLines={1}>
            {item.title}
          </Txt>
          <Txt size="sm" quiet numberOfLines={1}>
            {noteOf(item)}
          </Txt>
        </View>
      </Pressable>
      {isBuiltIn(item) ? null : (
        <Pressable
          role="button"
          aria-label={`${item.title}: name, group, save, remove`}
          onPress={onMore}
          className="absolute bottom-[4px] right-[2px] h-[48px] w-[44px] items-center justify-center active:opacity-60"
        >
          <EllipsisVertical size={22} color="var(--ink)" aria-hidden />
        </Pressable>
      )}
    </View>
  );
}
