import { redo, undo, useTurns } from '../state/commands';
import { IconButton } from './Button';
import { Redo2, Undo2 } from './icons';
import { useShortcuts } from './shortcuts';

/** Undo and redo at a place; each is visible only if available. */
export function UndoButtons({ place }: { place: string }) {
  const turns = useTurns(place);
  useShortcuts([
    { keys: '$mod+z', shown: 'Ctrl Z', what: 'Undo', run: () => void undo(place) },
    { keys: '$mod+Shift+z', shown: 'Ctrl Shift Z', what: 'Redo', run: () => void redo(place) },
  ]);
  return (
    <>
      {turns.undo ? <IconButton label={`Undo: ${turns.undo}`} icon={Undo2} onPress={() => void undo(place)} /> : null}
      {turns.redo ? <IconButton label={`Redo: ${turns.redo}`} icon={Redo2} onPress={() => void redo(place)} /> : null}
    </>
  );
}
