import { Pressable, View } from 'react-native';
import { summaryOf } from '@inkavo/core/report/stepsInWords';
import { shownLists, useBench, useOwnedStep } from '../../../state/bench';
import {
  addRegion,
  leaveRegion,
  regionOf,
  removeRegion,
  setRegion,
  takeRegion,
  type RegionStart,
} from '../../../state/regions';
import { findStep, ownedRegions } from '../../../state/stepLists';
import { IconButton } from '../../../ui/Button';
import { Blend, Circle, Crosshair, Hexagon, Palette, Square, SunDim, Trash, type LucideIcon } from '../../../ui/icons';
import { Sheet } from '../../../ui/Sheet';
import { Txt } from '../../../ui/Txt';
import { useState } from 'react';

const STARTS: readonly { start: RegionStart; title: string; note: string; icon: LucideIcon }[] = [
  { start: 'ellipse', title: 'Ellipse', note: 'a diver, a face, a low sun', icon: Circle },
  { start: 'rectangle', title: 'Rectangle', note: 'a sail, a wall', icon: Square },
  { start: 'path', title: 'Path', note: 'any outline, point by point', icon: Hexagon },
  { start: 'gradient', title: 'Gradient', note: 'a sky, a shore', icon: Blend },
  { start: 'colour', title: 'By colour', note: 'picked in the picture', icon: Palette },
  { start: 'lightness', title: 'By lightness', note: 'the bright or the dark parts', icon: SunDim },
];

/** The name of a region, from its step. */
export const regionName = (label: string | undefined): string => label ?? 'Region';

/** First row of a tray: the region in which the step in hand acts. */
export function WhereRow({ id }: { id: string }) {
  const owned = useOwnedStep(id);
  const [open, setOpen] = useState(false);
  const region = useBench((s) => findStep(shownLists(s), owned?.step.region ?? null)?.step);
  const lost = owned?.step.region !== undefined && !region;
  const name = region ? regionName(region.label) : lost ? 'a region that is not here' : 'everywhere';
  return (
    <View className="h-[44px] flex-row items-center gap-1 pl-3 pr-1">
      <Pressable
        role="button"
        aria-label={`Acts ${region ? 'in ' : ''}${name}: change where`}
        onPress={() => setOpen(true)}
        className="h-[44px] min-w-0 flex-1 flex-row items-center gap-2 active:opacity-60"
      >
        <Crosshair size={18} color="var(--ink)" aria-hidden />
        <Txt numberOfLines={1} bold={region !== undefined}>
          {region ? `Acts in: ${name}` : `Acts ${name}`}
        </Txt>
      </Pressable>
      {region ? (
        <Pressable
          role="button"
          aria-label={`Place and change ${name}`}
          onPress={() => takeRegion(regionOf(region))}
          className="h-[40px] items-center justify-center rounded border-stroke border-edge bg-surface px-3 active:opacity-60"
        >
          <Txt>Place</Txt>
        </Pressable>
      ) : null}
      {open ? <WhereSheet id={id} onClose={() => setOpen(false)} /> : null}
    </View>
  );
}

/** Chooses where a step acts: everywhere, in an existing region, or in a new one. */
function WhereSheet({ id, onClose }: { id: string; onClose(): void }) {
  const owned = useOwnedStep(id);
  const { edit } = useBench.getState();
  const lists = useBench((s) => s.lists);
  if (!owned) return null;
  // A region belongs to the list of its steps: clips of other lists do not have it.
  const regions = ownedRegions(lists).filter((r) => r.owner === owned.owner);
  const make = (start: RegionStart): void => {
    const { opened, view } = useBench.getState();
    if (!opened) return;
    const made = addRegion(lists, id, start, view, opened.clip.facts.width / opened.clip.facts.height);
    edit(() => made.lists);
    const step = findStep(made.lists, made.id)?.step;
    if (step) takeRegion(regionOf(step));
    onClose();
    if (start === 'colour') useBench.getState().set({ picking: 'like', spot: null });
  };
  return (
    <Sheet title="Where it acts" onClose={onClose}>
      <Row
        title="Everywhere"
        on={owned.step.region === undefined}
        onPress={() => {
          edit((now) => setRegion(now, id, undefined));
          leaveRegion();
          onClose();
        }}
      />
      {regions.map(({ step }) => {
        return (
          <View key={step.id} className="flex-row items-center gap-1">
            <View className="flex-1">
              <Row
                title={regionName(step.label)}
                note={summaryOf(step)}
                on={owned.step.region === step.id}
                onPress={() => {
                  edit((now) => setRegion(now, id, step.id));
                  takeRegion(regionOf(step));
                  onClose();
                }}
              />
            </View>
            <IconButton
              label={`Remove ${regionName(step.label)}`}
              icon={Trash}
              onPress={() => {
                edit((now) => removeRegion(now, step.id));
                if (owned.step.region === step.id) leaveRegion();
              }}
            />
          </View>
        );
      })}
      <Txt size="sm" quiet>
        In a new region
      </Txt>
      <View className="flex-row flex-wrap gap-2">
        {STARTS.map(({ start, title, note, icon: Icon }) => (
          <Pressable
            key={start}
            role="button"
            aria-label={`New region: ${title}`}
            onPress={() => make(start)}
            className="min-h-[64px] min-w-[150px] flex-1 flex-row items-center gap-3 rounded border-stroke border-edge bg-surface px-3 active:opacity-60"
          >
            <Icon size={22} color="var(--ink)" aria-hidden />
            <View className="min-w-0 flex-1">
              <Txt bold>{title}</Txt>
              <Txt size="sm" quiet>
                {note}
              </Txt>
            </View>
          </Pressable>
        ))}
      </View>
    </Sheet>
  );
}

function Row({ title, note, on, onPress }: { title: string; note?: string; on: boolean; onPress(): void }) {
  return (
    <Pressable
      role="radio"
      aria-checked={on}
      onPress={onPress}
      className={`min-h-[48px] flex-row items-center justify-between gap-3 rounded border-stroke px-3 ${on ? 'border-accent bg-accent' : 'border-edge bg-surface'}`}
    >
      <Txt bold={on} ink={on ? 'text-on-accent' : 'text-ink'}>
        {title}
      </Txt>
      {note ? (
        <Txt size="sm" ink={on ? 'text-on-accent' : 'text-quiet'} numberOfLines={1}>
          {note}
        </Txt>
      ) : null}
    </Pressable>
  );
}
