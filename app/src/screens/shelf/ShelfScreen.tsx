import { useQuery } from '@tanstack/react-query';
import { ScrollView, useWindowDimensions, View } from 'react-native';
import { joined } from '@inkavo/core/model/lists';
import { api } from '../../api/client';
import { lastClip } from '../../state/lastView';
import { listsOf } from '../../state/lists';
import { takeItem } from '../../state/takeItem';
import { TopBar } from '../../ui/TopBar';
import { Txt } from '../../ui/Txt';
import { UndoButtons } from '../../ui/UndoButtons';
import { frameOf } from './preview';
import { Shelf } from './Shelf';
import { ShelfContext, type ShelfUse } from './shelfUse';

/** Minimum width for the picture beside the items. */
const WIDE = 900;
const KINDS = ['recipe', 'lut', 'profile'] as const;

/** The clip for previews: the last opened one on this device, otherwise the first. */
async function clipToDrawOn() {
  const last = lastClip();
  if (last) {
    try {
      return await api.clip(last);
    } catch {
      // It was removed since.
    }
  }
  const outing = (await api.outings()).find((o) => o.clips.length > 0);
  return outing ? api.clip(outing.clips[0].id) : null;
}

/** The shelf as a screen: browsing, importing, organising. */
export function ShelfScreen() {
  const { data } = useQuery({ queryKey: ['shelf-clip'], queryFn: clipToDrawOn, staleTime: 0 });
  const { width } = useWindowDimensions();
  const lists = data && listsOf(data);
  const use: ShelfUse | null =
    data && lists
      ? {
          on: frameOf(data.clip, data.clip.referenceFrame),
          kinds: KINDS,
          now: joined(lists),
          put: (item) => joined(takeItem(lists, item).lists),
        }
      : null;
  return (
    <View role="main" className="flex-1 bg-ground">
      <TopBar title="Shelf" note={data ? `seen on ${data.clip.name}` : undefined} back="last" backLabel="Back">
        <UndoButtons place="shelf" />
      </TopBar>
      <ScrollView contentContainerClassName="mx-auto w-full max-w-[1240px] p-3">
        <Txt quiet className="mb-3">
          Recipes, tables and profiles for every clip. On the bench they are under More, and under a LUT’s or a
          conversion’s own field.
        </Txt>
        <ShelfContext.Provider value={use}>
          <Shelf kinds={KINDS} wide={width >= WIDE} />
        </ShelfContext.Provider>
      </ScrollView>
    </View>
  );
}
