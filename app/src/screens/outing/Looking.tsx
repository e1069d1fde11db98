import { useState } from 'react';
import { View } from 'react-native';
import { CLIP_STATES, type ClipState, type ListedClip } from '@inkavo/core/model/outing';
import { useArrangement } from '../../state/arrangement';
import { Button } from '../../ui/Button';
import { Choice, ChoiceList } from '../../ui/Choice';
import { SlidersHorizontal } from '../../ui/icons';
import { SearchField } from '../../ui/SearchField';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';

const TITLES: Record<ClipState, string> = { new: 'New', work: 'In work', checked: 'Checked', exported: 'Exported' };
const ALL = 'all';

/** Search, filter and display options of the clips. */
export function Looking({ clips, found }: { clips: readonly ListedClip[]; found: number }) {
  const { search, state, set } = useArrangement();
  const [open, setOpen] = useState(false);
  const narrowed = search.trim() !== '' || state !== null;
  return (
    <View className="mx-auto w-full max-w-[1240px] gap-1 px-3 pt-2">
      <View className="flex-row items-center gap-2">
        <SearchField
          label="Search clips"
          hint="Name or camera"
          value={search}
          onChange={(text) => set({ search: text })}
        />
        <Button
          title={state ? TITLES[state] : 'Shown'}
          aria-label={`How clips are shown${state ? `: only ${TITLES[state].toLowerCase()}` : ''}`}
          icon={SlidersHorizontal}
          onPress={() => setOpen(true)}
        />
      </View>
      {narrowed ? (
        <View className="flex-row items-center justify-between">
          <Txt size="sm" quiet role="status">
            {found} of {clips.length} clips
          </Txt>
          <Button title="Show all" look="bare" onPress={() => set({ search: '', state: null })} />
        </View>
      ) : null}
      {open ? <ShownSheet clips={clips} onClose={() => setOpen(false)} /> : null}
    </View>
  );
}

function ShownSheet({ clips, onClose }: { clips: readonly ListedClip[]; onClose(): void }) {
  const { by, tiles, state, set } = useArrangement();
  const count = (s: ClipState): string => String(clips.filter((c) => c.state === s).length);
  return (
    <Sheet title="How clips are shown" onClose={onClose}>
      <Choice
        label="Sorted"
        value={by}
        options={[
          { value: 'camera', title: 'By camera' },
          { value: 'order', title: 'In order' },
        ]}
        onChange={(v) => set({ by: v })}
      />
      <Choice
        label="Tiles"
        value={tiles}
        options={[
          { value: 'large', title: 'Large tiles' },
          { value: 'small', title: 'Small tiles' },
        ]}
        onChange={(v) => set({ tiles: v })}
      />
      <Txt size="sm" quiet>
        Only clips that are
      </Txt>
      <ChoiceList
        label="Only clips that are"
        value={state ?? ALL}
        options={[
          { value: ALL as ClipState | typeof ALL, title: 'All', note: String(clips.length) },
          ...CLIP_STATES.map((s) => ({ value: s, title: TITLES[s], note: count(s) })),
        ]}
        onChange={(v) => {
          set({ state: v === ALL ? null : v });
          onClose();
        }}
      />
    </Sheet>
  );
}
