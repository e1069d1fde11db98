import { hasNoEffect } from '@inkavo/core/model/grade';
import {
  closestCenter,
  DndContext,
  MouseSensor,
  TouchSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  horizontalListSortingStrategy,
  SortableContext,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { Pressable, ScrollView, View } from 'react-native';
import { STEP_KINDS } from '@inkavo/core/steps';
import { useShallow } from 'zustand/react/shallow';
import { shownLists, useBench, useOwnedStep } from '../../state/bench';
import { OWNERS } from '@inkavo/core/model/lists';
import { findStep, ownedSteps } from '../../state/stepLists';
import { bringIntoSight } from '../../ui/bringIntoSight';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { FirstPassSheet } from './FirstPassSheet';
import { useStripWidth } from './layout';
import { regionName } from './region/WhereSheet';
import { StepChip } from './StepChip';
import { useHints } from '../../state/hints';
import { CopySheet } from './CopySheet';
import { MatchSheet } from './MatchSheet';
import { Button } from '../../ui/Button';
import { Blend, Copy, ListChecks, Plus, type LucideIcon } from '../../ui/icons';

/** Steps as a row of chips in working order (phone, tablet). */
export function StepStrip() {
  return (
    <View className="border-y-stroke border-line bg-ground">
      <ScrollView
        horizontal
        showsHorizontalScrollIndicator={false}
        contentContainerClassName="items-center gap-2 px-2 py-[5px]"
        role="group"
        aria-label="Steps"
      >
        <FirstPass />
        <Chips />
        <AddStep />
        <CopySteps />
      </ScrollView>
    </View>
  );
}

/** Steps in a column, in three groups (wide screen). */
export function StepColumn({ cameraName, outingName }: { cameraName: string; outingName: string }) {
  const empty = useBench(useShallow((s) => OWNERS.filter((owner) => shownLists(s)[owner].length === 0)));
  const titles = { camera: `Camera · ${cameraName}`, clip: 'This clip', outing: `Outing · ${outingName}` };
  return (
    <ScrollView
      className="w-[204px] grow-0 border-r-stroke border-line bg-ground"
      contentContainerClassName="gap-2 p-3"
      role="group"
      aria-label="Steps"
    >
      <FirstPass wide />
      {OWNERS.filter((owner) => !empty.includes(owner) || owner === 'clip').map((owner) => (
        <View key={owner} className="mb-2 gap-2">
          <Txt size="sm" quiet numberOfLines={1}>
            {titles[owner]}
          </Txt>
          <Chips only={owner} wide />
        </View>
      ))}
      <AddStep wide />
      <CopySteps wide />
    </ScrollView>
  );
}

/** Sortable chips: dragged with the mouse, or held and dragged with a finger. */
function Chips({ only, wide }: { only?: (typeof OWNERS)[number]; wide?: boolean }) {
  // Depends only on the list of steps: during a drag of a number, the other chips are not rendered again.
  const ids = useBench(
    useShallow((s) =>
      ownedSteps(shownLists(s))
        .filter((o) => !only || o.owner === only)
        .map((o) => o.step.id),
    ),
  );
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 8 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 260, tolerance: 8 } }),
  );
  const onDragEnd = ({ active, over }: DragEndEvent): void => {
    if (over) useBench.getState().placeStep(String(active.id), String(over.id));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <SortableContext items={ids} strategy={wide ? verticalListSortingStrategy : horizontalListSortingStrategy}>
        {ids.map((id) => (
          <SortableChip key={id} id={id}>
            <ChipOf id={id} wide={wide} />
          </SortableChip>
        ))}
      </SortableContext>
    </DndContext>
  );
}

function ChipOf({ id, wide }: { id: string; wide?: boolean }) {
  const owned = useOwnedStep(id);
  const inHand = useBench((s) => s.inHand === id);
  const { take, set } = useBench.getState();
  const region = useBench((s) => {
    const named = owned?.step.region;
    return named === undefined ? undefined : regionName(findStep(shownLists(s), named)?.step.label);
  });
  const box = useRef<HTMLDivElement>(null);
  // A step chosen by keyboard, or just added, is scrolled into view.
  useEffect(() => {
    if (inHand && box.current) bringIntoSight(box.current);
  }, [inHand]);
  if (!owned) return null;
  return (
    <div ref={box}>
      <StepChip
        owned={owned}
        wide={wide}
        inHand={inHand}
        region={region}
        onTake={() => {
          take(id);
          useHints.getState().finish('chips');
        }}
        onOpen={() => set({ sheet: id })}
      />
    </div>
  );
}

function SortableChip({ id, children }: { id: string; children: ReactNode }) {
  const { listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id });
  return (
    <div
      ref={setNodeRef}
      {...listeners}
      style={{
        transform: CSS.Translate.toString(transform),
        transition,
        opacity: isDragging ? 0.7 : 1,
        zIndex: isDragging ? 1 : 0,
        position: 'relative',
        touchAction: 'manipulation',
      }}
    >
      {children}
    </div>
  );
}

/** Width from which the strip has room for the text of its first button beside five chips. */
const TEXT_FROM = 700;

/** Reads the clip and proposes steps. On a narrow screen with text on an untouched clip, later an icon. */
function FirstPass({ wide }: { wide?: boolean }) {
  const [open, setOpen] = useState(false);
  const fresh = useBench((s) => shownLists(s).clip.every(hasNoEffect));
  const roomy = useStripWidth() >= TEXT_FROM;
  return (
    <>
      <Pressable
        role="button"
        aria-label="First pass: read the clip and offer steps"
        onPress={() => setOpen(true)}
        className={`h-[52px] flex-row items-center justify-center gap-2 rounded border-stroke border-edge bg-surface px-3 active:opacity-60 ${wide ? 'w-full' : ''}`}
      >
        <ListChecks size={20} color="var(--ink)" aria-hidden />
        {wide || fresh || roomy ? <Txt bold={fresh}>First pass</Txt> : null}
      </Pressable>
      {open ? <FirstPassSheet onClose={() => setOpen(false)} /> : null}
    </>
  );
}

/** A button among the chips that opens a sheet; with text if steps are in a column. */
function StripButton({
  label,
  icon: Icon,
  text,
  open,
}: {
  label: string;
  icon: LucideIcon;
  text: string | null;
  open(): void;
}) {
  return (
    <Pressable
      role="button"
      aria-label={label}
      onPress={open}
      className={`h-[52px] flex-row items-center justify-center gap-1 rounded border-stroke border-line active:opacity-60 ${text ? 'w-full' : 'w-[52px]'}`}
    >
      <Icon size={20} color="var(--ink)" aria-hidden />
      {text ? <Txt>{text}</Txt> : null}
    </Pressable>
  );
}

/** Copies and pastes steps, one or several. */
function CopySteps({ wide }: { wide?: boolean }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <StripButton
        label="Copy and paste steps"
        icon={Copy}
        text={wide ? 'copy, paste' : null}
        open={() => setOpen(true)}
      />
      {open ? <CopySheet onClose={() => setOpen(false)} /> : null}
    </>
  );
}

function AddStep({ wide }: { wide?: boolean }) {
  const [open, setOpen] = useState(false);
  const [matching, setMatching] = useState(false);
  const addStep = useBench((s) => s.addStep);
  return (
    <>
      <StripButton label="Add a step" icon={Plus} text={wide ? 'add a step' : null} open={() => setOpen(true)} />
      {open ? (
        <Sheet title="Add a step" onClose={() => setOpen(false)}>
          <Button
            title="Match to another clip …"
            icon={Blend}
            onPress={() => {
              setOpen(false);
              setMatching(true);
            }}
          />
          {STEP_KINDS.map((k) => (
            <Pressable
              key={k.kind}
              role="button"
              onPress={() => {
                addStep(k.kind);
                setOpen(false);
              }}
              className="min-h-[48px] rounded border-stroke border-edge bg-surface px-3 py-2 active:opacity-60"
            >
              <Txt bold>{k.title}</Txt>
              <Txt size="sm" quiet>
                {k.help}
              </Txt>
            </Pressable>
          ))}
        </Sheet>
      ) : null}
      {matching ? <MatchSheet onClose={() => setMatching(false)} /> : null}
    </>
  );
}
