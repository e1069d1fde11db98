import type { ReactNode } from 'react';
import { Sheet } from '../../ui/Sheet';
import { Shelf } from './Shelf';
import { ShelfContext, type ShelfUse } from './shelfUse';

/** The shelf over another screen, to take something from it. */
export function ShelfSheet({
  title,
  use,
  onClose,
  children,
}: {
  title: string;
  use: ShelfUse;
  onClose(): void;
  children?: ReactNode;
}) {
  return (
    <Sheet title={title} onClose={onClose}>
      {children}
      <ShelfContext.Provider value={use}>
        <Shelf kinds={use.kinds} onDone={onClose} />
      </ShelfContext.Provider>
    </Sheet>
  );
}
