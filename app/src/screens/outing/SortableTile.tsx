import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { memo } from 'react';
import type { ListedClip } from '@inkavo/core/model/outing';
import { EllipsisVertical, GripVertical } from '../../ui/icons';
import { ClipTile } from './ClipTile';

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

/** A tile with its grip and its menu; without both during selection. */
export const SortableTile = memo(function SortableTile({
  clip,
  small,
  sortable,
  chosen,
  onToggle,
  onMore,
}: {
  clip: ListedClip;
  small: boolean;
  sortable: boolean;
  chosen?: boolean;
  onToggle(clip: ListedClip, range: boolean): void;
  onMore(what: { clip: ListedClip }): void;
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
        minWidth: 0,
        transform: CSS.Transform.toString(transform),
        transition,
        opacity: isDragging ? 0.7 : 1,
        zIndex: isDragging ? 1 : 0,
      }}
    >
      <ClipTile clip={clip} small={small} chosen={chosen} onToggle={onToggle} />
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
        <button aria-label={`Clip ${clip.name}: name, camera, remove`} onClick={() => onMore({ clip })} style={ON_TILE}>
          <EllipsisVertical size={22} color="#ffffff" aria-hidden />
        </button>
      ) : null}
    </div>
  );
});
