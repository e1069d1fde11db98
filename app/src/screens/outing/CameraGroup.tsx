import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  arrayMove,
  rectSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { useQueryClient } from '@tanstack/react-query';
import { View } from 'react-native';
import type { Camera, Clip } from '@inkavo/core/model/outing';
import type { OutingOpened } from '../../api/client';
import { act } from '../../state/deeds';
import { IconButton } from '../../ui/Button';
import { EllipsisVertical, GripVertical } from '../../ui/icons';
import { Txt } from '../../ui/Txt';
import { ClipTile } from './ClipTile';
import { positionAt } from './order';

interface Props {
  camera: Camera;
  clips: Clip[];
  chosen: ReadonlySet<string> | null;
  /** Tiles side by side, at most. */
  columns: number;
  onToggle(clip: Clip): void;
  onMore(what: { camera: Camera } | { clip: Clip }): void;
}

/** The clips of one camera; dragged by the grip of a tile, they change places. */
export function CameraGroup({ camera, clips, chosen, columns, onToggle, onMore }: Props) {
  const client = useQueryClient();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const onDragEnd = ({ active, over }: DragEndEvent): void => {
    if (!over || over.id === active.id) return;
    const [from, to] = [active.id, over.id].map((id) => clips.findIndex((c) => c.id === id));
    const moved = arrayMove(clips, from, to);
    const position = positionAt(
      moved.map((c) => c.position),
      to,
    );
    const { id, outingId } = clips[from];
    const key = ['outing', outingId];
    client.setQueryData<OutingOpened>(
      key,
      (open) =>
        open && {
          ...open,
          clips: open.clips
            .map((c) => (c.id === id ? { ...c, position } : c))
            .toSorted((a, b) => a.position - b.position),
        },
    );
    void act({
      place: outingId,
      what: `place of ${clips[from].name}`,
      done: [{ on: 'clip', id, patch: { position } }],
      undone: [{ on: 'clip', id, patch: { position: clips[from].position } }],
    }).finally(() => client.invalidateQueries({ queryKey: key }));
  };
  return (
    <View className="min-w-0">
      <View className="h-[44px] flex-row items-center">
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
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
        <SortableContext items={clips.map((c) => c.id)} strategy={rectSortingStrategy}>
          <div
            style={{
              display: 'grid',
              gap: 12,
              gridTemplateColumns: `repeat(${Math.max(1, Math.min(columns, clips.length))}, minmax(0, 1fr))`,
            }}
          >
            {clips.map((clip) => (
              <SortableTile
                key={clip.id}
                clip={clip}
                sortable={clips.length > 1}
                chosen={chosen?.has(clip.id)}
                onToggle={() => onToggle(clip)}
                onMore={() => onMore({ clip })}
              />
            ))}
          </div>
        </SortableContext>
      </DndContext>
    </View>
  );
}

/** A button on the picture of a tile. */
const ON_TILE = {
  position: 'absolute',
  right: 4,
  top: 4,
  width: 44,
  height: 44,
  padding: 0,
  display: 'flex',
  alignItems: 'center',
  justifyContent: 'center',
  border: 0,
  borderRadius: 4,
  background: '#000000b0',
  cursor: 'pointer',
} as const;

function SortableTile({
  clip,
  sortable,
  chosen,
  onToggle,
  onMore,
}: {
  clip: Clip;
  sortable: boolean;
  chosen?: boolean;
  onToggle(): void;
  onMore(): void;
}) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: clip.id,
    disabled: !sortable || chosen !== undefined,
  });
  return (
    <div
      ref={setNodeRef}
      style={{
        position: 'relative',
        transform: CSS.Transform.toString(transform),
        transition,
        opacity: isDragging ? 0.7 : 1,
        zIndex: isDragging ? 1 : 0,
      }}
    >
      <ClipTile clip={clip} chosen={chosen} onToggle={onToggle} />
      {sortable && chosen === undefined ? (
        <button
          ref={setActivatorNodeRef}
          {...attributes}
          {...listeners}
          aria-label={`Move ${clip.name}`}
          style={{ ...ON_TILE, right: 52, cursor: 'grab', touchAction: 'none' }}
        >
          <GripVertical size={22} color="#ffffff" aria-hidden />
        </button>
      ) : null}
      {chosen === undefined ? (
        <button aria-label={`Clip ${clip.name}: name, camera, remove`} onClick={onMore} style={ON_TILE}>
          <EllipsisVertical size={22} color="#ffffff" aria-hidden />
        </button>
      ) : null}
    </div>
  );
}
