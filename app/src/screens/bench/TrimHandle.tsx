import { useRef } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { shownTrim, useBench } from '../../state/bench';
import { shownStrip } from '../../state/strip';
import { useDrag, type DragPoint } from '../../ui/useDrag';
import { StripDrag } from './stripDrag';

/** Touch area of a handle: mostly outside the kept range, so that scrubbing has the inside to itself. */
const TOUCH = 44;
const INSIDE = 14;
const GRIP = 14;

/** In or out on the scrub strip, `width` pixels wide; moved by dragging or arrow keys. The picture follows. */
export function TrimHandle({
  side,
  last,
  width,
  text,
}: {
  side: 'in' | 'out';
  last: number;
  width: number;
  text: string;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const trim = useBench(shownTrim);
  const strip = useBench(useShallow(shownStrip));
  const drag = useRef(new StripDrag());
  const isIn = side === 'in';
  const at = isIn ? trim.inFrame : trim.outFrame;
  const other = isIn ? trim.outFrame : trim.inFrame;
  const move = (to: number, live: boolean): void => {
    const frame = Math.round(isIn ? Math.min(to, other) : Math.max(to, other));
    const held = Math.min(last, Math.max(0, frame));
    const { setTrim, set } = useBench.getState();
    setTrim(isIn ? { inFrame: held } : { outFrame: held }, live);
    set({ playing: false, frame: held });
  };
  // In the handle's own moving box, the pointer's position is constant.
  const onStrip = ({ dx, y, height }: DragPoint) => ({ x: dx, y, width, height });
  useDrag(ref, {
    onStart: (p) => drag.current.begin(onStrip(p), at),
    onMove: (p) => {
      const { frame, finer } = drag.current.move(onStrip(p), strip.last - strip.first);
      move(frame, true);
      useBench.getState().set({ finer });
    },
    onEnd: (_p, moved) => {
      const { settle, set } = useBench.getState();
      set({ finer: null });
      if (moved) settle();
      else set({ playing: false, frame: at });
    },
  });
  const span = strip.last - strip.first;
  const share = span ? (at - strip.first) / span : isIn ? 0 : 1;
  return (
    <div
      ref={ref}
      role="slider"
      tabIndex={0}
      aria-label={isIn ? 'In: drag to trim' : 'Out: drag to trim'}
      aria-valuemin={isIn ? 0 : other}
      aria-valuemax={isIn ? other : last}
      aria-valuenow={at}
      aria-valuetext={text}
      data-testid={`trim-${side}`}
      onKeyDown={(e) => {
        const by = { ArrowRight: 1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[e.key];
        if (by) move(at + by * (e.shiftKey ? 10 : 1), false);
        else if (e.key === 'Home') move(isIn ? 0 : other, false);
        else if (e.key === 'End') move(isIn ? other : last, false);
        else return;
        e.preventDefault();
      }}
      style={{
        position: 'absolute',
        top: -2,
        bottom: -2,
        width: TOUCH,
        left: share * width - (isIn ? TOUCH - INSIDE : INSIDE),
        cursor: 'ew-resize',
      }}
    >
      <div
        style={{
          position: 'absolute',
          top: 2,
          bottom: 2,
          width: GRIP,
          [isIn ? 'right' : 'left']: INSIDE,
          background: '#fff',
          outline: '1px solid #000',
          borderRadius: isIn ? '6px 0 0 6px' : '0 6px 6px 0',
          display: 'flex',
          alignItems: 'center',
          justifyContent: 'center',
        }}
      >
        <div style={{ width: 2, height: 16, background: '#000' }} />
      </div>
    </div>
  );
}
