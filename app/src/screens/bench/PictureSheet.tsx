import { useEffect } from 'react';
import { useBench } from '../../state/bench';
import { Sheet, type SheetProps } from '../../ui/Sheet';
import { BAR, useBesidePicture } from './layout';

interface Props extends Omit<SheetProps, 'beside'> {
  /** Action of holding the picture; by default, it shows the picture as recorded. */
  onHold?(held: boolean): void;
}

const asRecorded = (untouched: boolean): void => useBench.getState().set({ untouched });

/** A sheet beside the picture, for adjustments judged by looking at it. */
export function PictureSheet({ onHold = asRecorded, ...props }: Props) {
  const beside = useBesidePicture();
  useEffect(() => {
    const { set } = useBench.getState();
    set({ looking: true });
    return () => set({ looking: false, untouched: false });
  }, []);
  return <Sheet {...props} beside={{ ...beside, bar: BAR, onHold }} />;
}
