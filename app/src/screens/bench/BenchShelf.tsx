import type { ReactNode } from 'react';
import { joined } from '@inkavo/core/model/lists';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { useBench } from '../../state/bench';
import { changeStep } from '../../state/stepLists';
import { takeItem } from '../../state/takeItem';
import { frameOf } from '../shelf/preview';
import { ShelfSheet } from '../shelf/ShelfSheet';
import type { Likely, ShelfUse } from '../shelf/shelfUse';

/** Context of the open clip for the shelf, apart from the action of an item. */
function frameNow(): Pick<ShelfUse, 'on' | 'now'> {
  const { opened, frame, lists } = useBench.getState();
  return { on: frameOf(opened!.clip, frame), now: joined(lists) };
}

/** The whole shelf with previews on the open clip's frame. */
export function BenchShelf({ onClose }: { onClose(): void }) {
  const lists = useBench((s) => s.lists);
  const use: ShelfUse = {
    ...frameNow(),
    kinds: ['recipe', 'lut', 'profile'],
    put: (item) => joined(takeItem(lists, item).lists),
    take: {
      title: 'Take it',
      run(item) {
        const { lists: now, edit, take } = useBench.getState();
        const { lists: next, id } = takeItem(now, item);
        edit(() => next);
        if (id) take(id);
      },
    },
  };
  return <ShelfSheet title="Shelf" use={use} onClose={onClose} />;
}

/** The shelf for one step: taking an item changes its parameters. */
export function StepShelf({
  title,
  id,
  kind,
  inUse,
  likely,
  paramsOf,
  children,
  onClose,
}: {
  title: string;
  id: string;
  kind: ShelfItem['kind'];
  inUse?(item: ShelfItem): boolean;
  likely?: Likely;
  paramsOf(item: ShelfItem): Record<string, unknown>;
  children?: ReactNode;
  onClose(): void;
}) {
  const lists = useBench((s) => s.lists);
  const use: ShelfUse = {
    ...frameNow(),
    kinds: [kind],
    inUse,
    likely,
    put: (item) =>
      joined(changeStep(lists, id, (s) => ({ ...s, on: true, params: { ...s.params, ...paramsOf(item) } }))),
    take: { title: 'Take it', run: (item) => useBench.getState().setParams(id, paramsOf(item)) },
  };
  return (
    <ShelfSheet title={title} use={use} onClose={onClose}>
      {children}
    </ShelfSheet>
  );
}
