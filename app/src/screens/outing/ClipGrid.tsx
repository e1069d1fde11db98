import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import { arrayMove, rectSortingStrategy, SortableContext, sortableKeyboardCoordinates } from '@dnd-kit/sortable';
import { useQueryClient } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import { View } from 'react-native';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import type { OutingOpened } from '../../api/client';
import { act } from '../../state/commands';
import { IconButton } from '../../ui/Button';
import { EllipsisVertical } from '../../ui/icons';
import { Txt } from '../../ui/Txt';
import type { Arrangement } from '../../state/arrangement';
import { rowsOf, type Row } from './arrange';
import { positionAt } from '@inkavo/core/model/order';
import { SortableTile } from './SortableTile';

/** Gap between tiles, and maximum width of a row, in pixels. */
const GAP = 12;
const WIDEST = 1240;
const HEADING = 44;
/** Approximate height below a tile's picture. */
const TEXT = { large: 68, small: 44 };
/** Rows rendered beyond the window. */
const AHEAD = 3;

/** Scroll position of each outing, restored when returning. */
const scrolled = new Map<string, number>();

interface Props {
  outingId: string;
  cameras: readonly Camera[];
  /** The visible clips, in order. */
  clips: readonly ListedClip[];
  arrangement: Pick<Arrangement, 'by' | 'tiles'>;
  columns: number;
  width: number;
  chosen: ReadonlySet<string> | null;
  onToggle(clip: ListedClip, range: boolean): void;
  onMore(what: { camera: Camera } | { clip: ListedClip }): void;
  /** Content above the tiles. */
  children?: ReactNode;
}

/** A virtualised grid of tiles; dragged by its grip, a tile changes its place. */
export function ClipGrid(props: Props) {
  const { outingId, cameras, clips, arrangement, columns, width, children } = props;
  const { by, tiles } = arrangement;
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useMemo(() => rowsOf(clips, cameras, by, columns), [clips, cameras, by, columns]);
  const tileWidth = (Math.min(WIDEST, width) - GAP * (columns + 1)) / columns;
  const heightOf = (row: Row): number =>
    (row.some((s) => s.heading) ? HEADING : 0) + (tileWidth * 9) / 16 + TEXT[tiles] + GAP;
  // eslint-disable-next-line react-hooks/incompatible-library -- its values go into no memoised component
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => heightOf(rows[i]),
    getItemKey: (i) => rows[i].map((s) => s.clips[0].id).join(),
    overscan: AHEAD,
    initialOffset: () => scrolled.get(outingId) ?? 0,
  });
  useEffect(() => virtual.measure(), [virtual, tileWidth, tiles]);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const client = useQueryClient();
  const move = ({ active, over }: DragEndEvent): void => {
    const clip = clips.find((c) => c.id === active.id);
    const target = clips.find((c) => c.id === over?.id);
    // Within its camera if grouped by camera: another camera is chosen in the menu.
    if (!clip || !target || clip === target || (by === 'camera' && clip.cameraId !== target.cameraId)) return;
    const among = by === 'camera' ? clips.filter((c) => c.cameraId === clip.cameraId) : clips;
    const to = among.indexOf(target);
    const moved = arrayMove([...among], among.indexOf(clip), to);
    const position = positionAt(
      moved.map((c) => c.position),
      to,
    );
    const key = ['outing', outingId];
    client.setQueryData<OutingOpened>(
      key,
      (open) =>
        open && {
          ...open,
          clips: open.clips
            .map((c) => (c.id === clip.id ? { ...c, position } : c))
            .toSorted((a, b) => a.position - b.position),
        },
    );
    void act({
      place: outingId,
      what: `place of ${clip.name}`,
      done: [{ on: 'clip', id: clip.id, patch: { position } }],
      undone: [{ on: 'clip', id: clip.id, patch: { position: clip.position } }],
    }).finally(() => client.invalidateQueries({ queryKey: key }));
  };
  return (
    <div
      ref={scroller}
      onScroll={(e) => scrolled.set(outingId, e.currentTarget.scrollTop)}
      style={{ flex: 1, minHeight: 0, overflowY: 'auto', overflowAnchor: 'none' }}
    >
      {children}
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={move}>
        <SortableContext items={clips.map((c) => c.id)} strategy={rectSortingStrategy}>
          <div style={{ position: 'relative', height: virtual.getTotalSize() }}>
            {virtual.getVirtualItems().map(({ key, index, start }) => (
              <div
                key={key}
                ref={virtual.measureElement}
                data-index={index}
                style={{ position: 'absolute', left: 0, right: 0, top: start }}
              >
                <TileRow {...props} row={rows[index]} />
              </div>
            ))}
          </div>
        </SortableContext>
      </DndContext>
    </div>
  );
}

function TileRow({ row, columns, chosen, clips, arrangement, onToggle, onMore }: Props & { row: Row }) {
  const grid = (count: number) =>
    ({
      display: 'grid',
      columnGap: GAP,
      gridTemplateColumns: `repeat(${count}, minmax(0, 1fr))`,
    }) as const;
  return (
    <div style={{ ...grid(columns), maxWidth: WIDEST, margin: '0 auto', padding: `0 ${GAP}px ${GAP}px` }}>
      {row.map(({ camera, heading, clips: own }) => (
        <div key={own[0].id} style={{ gridColumn: `span ${own.length}`, minWidth: 0 }}>
          {heading && camera ? (
            <View style={{ height: HEADING }} className="flex-row items-center">
              <Txt bold role="heading" aria-level={2} numberOfLines={1} className="shrink">
                {camera.name}
              </Txt>
              {chosen ? null : (
                <IconButton
                  label={`Camera ${camera.name}: name, kind, remove`}
                  icon={EllipsisVertical}
                  onPress={() => onMore({ camera })}
                />
              )}
            </View>
          ) : null}
          <div style={grid(own.length)}>
            {own.map((clip) => (
              <SortableTile
                key={clip.id}
                clip={clip}
                small={arrangement.tiles === 'small'}
                sortable={clips.length > 1}
                chosen={chosen ? chosen.has(clip.id) : undefined}
                onToggle={onToggle}
                onMore={onMore}
              />
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}
