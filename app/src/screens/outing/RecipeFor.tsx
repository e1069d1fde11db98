import { useQuery } from '@tanstack/react-query';
import { ActivityIndicator } from 'react-native';
import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import type { ListedClip } from '@inkavo/core/model/outing';
import { api } from '../../api/client';
import { listsOf } from '../../state/lists';
import { takeItem } from '../../state/takeItem';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { frameOf } from '../shelf/preview';
import { ShelfSheet } from '../shelf/ShelfSheet';

/** Chooses a recipe for several clips, with previews on the first of them. */
export function RecipeFor({
  clips,
  onTake,
  onClose,
}: {
  clips: readonly ListedClip[];
  onTake(steps: readonly Step[]): void;
  onClose(): void;
}) {
  const [first] = clips;
  const { data, error } = useQuery({ queryKey: ['clip', first.id], queryFn: () => api.clip(first.id), staleTime: 0 });
  if (!data)
    return (
      <Sheet title="Recipe" onClose={onClose}>
        {error ? (
          <Trouble text={error.message} />
        ) : (
          <ActivityIndicator color="var(--ink)" accessibilityLabel="Opening the first clip" />
        )}
      </Sheet>
    );
  const lists = listsOf(data);
  const title = `Put into ${clips.length === 1 ? 'it' : `all ${clips.length}`}`;
  return (
    <ShelfSheet
      title="Recipe"
      use={{
        on: frameOf(first, first.referenceFrame),
        kinds: ['recipe'],
        now: joined(lists),
        put: (item) => joined(takeItem(lists, item).lists),
        take: { title, run: (item) => item.kind === 'recipe' && onTake(item.steps) },
      }}
      onClose={onClose}
    >
      <Txt size="sm" quiet>
        Seen on {first.name}. Each step takes the place of a clip’s step of its kind, or is added.
      </Txt>
    </ShelfSheet>
  );
}
