import { useEffect, useRef, type RefObject } from 'react';

/** Position of a pointer in pixels of the element's own box, and its total movement. */
export interface DragPoint {
  x: number;
  y: number;
  dx: number;
  dy: number;
  width: number;
  height: number;
  shift: boolean;
}

export interface DragHandlers {
  /** Pointer down. Return false to ignore it. */
  onStart?(p: DragPoint): boolean | void;
  onMove?(p: DragPoint): void;
  /** Pointer up. `moved` distinguishes a drag from a tap. */
  onEnd?(p: DragPoint, moved: boolean): void;
  /** Held still for {@link HOLD_MS}. */
  onHold?(p: DragPoint): void;
  onWheel?(steps: number, fine: boolean, at: { x: number; y: number; width: number; height: number }): void;
  /** A second pointer was added: not a drag. */
  onCancel?(): void;
}

/** Movement beyond which a touch is a drag. */
const SLOP = 6;
const HOLD_MS = 350;

/** Tracks one pointer over an element, also when it leaves it. */
export function useDrag<T extends HTMLElement>(target: RefObject<T | null>, handlers: DragHandlers): void {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    const element = target.current;
    if (!element) return undefined;
    let start: { x: number; y: number; id: number; moved: boolean } | undefined;
    let hold: ReturnType<typeof setTimeout> | undefined;
    const pointOf = (e: MouseEvent): DragPoint => {
      const box = element.getBoundingClientRect();
      return {
        x: e.clientX - box.left,
        y: e.clientY - box.top,
        dx: e.clientX - (start?.x ?? e.clientX),
        dy: e.clientY - (start?.y ?? e.clientY),
        width: box.width,
        height: box.height,
        shift: e.shiftKey,
      };
    };
    const down = (e: PointerEvent): void => {
      if (start && latest.current.onCancel && e.pointerId !== start.id) {
        clearTimeout(hold);
        start = undefined;
        latest.current.onCancel();
        return;
      }
      if (start || e.button !== 0 || (latest.current.onCancel && !e.isPrimary)) return;
      start = { x: e.clientX, y: e.clientY, id: e.pointerId, moved: false };
      const p = pointOf(e);
      if (latest.current.onStart?.(p) === false) {
        start = undefined;
        return;
      }
      element.setPointerCapture(e.pointerId);
      if (latest.current.onHold) hold = setTimeout(() => start && !start.moved && latest.current.onHold?.(p), HOLD_MS);
    };
    const move = (e: PointerEvent): void => {
      if (start?.id !== e.pointerId) return;
      const p = pointOf(e);
      if (!start.moved && Math.hypot(p.dx, p.dy) < SLOP) return;
      if (!start.moved) clearTimeout(hold);
      start.moved = true;
      latest.current.onMove?.(p);
    };
    const up = (e: PointerEvent): void => {
      if (start?.id !== e.pointerId) return;
      clearTimeout(hold);
      const p = pointOf(e);
      const { moved } = start;
      start = undefined;
      latest.current.onEnd?.(p, moved);
    };
    /** The browser took over the pointer for scrolling: not a tap. */
    const lost = (e: PointerEvent): void => {
      if (start?.id !== e.pointerId) return;
      start.moved = true;
      up(e);
    };
    const wheel = (e: WheelEvent): void => {
      if (!latest.current.onWheel) return;
      e.preventDefault();
      const { x, y, width, height } = pointOf(e);
      latest.current.onWheel(-Math.sign(e.deltaY || e.deltaX), e.shiftKey, { x, y, width, height });
    };
    // A tap that opens something must not also click the element that appears below the pointer.
    const touchEnd = (e: TouchEvent): void => {
      if (e.cancelable) e.preventDefault();
    };
    element.style.setProperty('touch-action', 'none');
    element.addEventListener('touchend', touchEnd, { passive: false });
    element.addEventListener('pointerdown', down);
    element.addEventListener('pointermove', move);
    element.addEventListener('pointerup', up);
    element.addEventListener('pointercancel', lost);
    element.addEventListener('wheel', wheel, { passive: false });
    return () => {
      clearTimeout(hold);
      element.removeEventListener('touchend', touchEnd);
      element.removeEventListener('pointerdown', down);
      element.removeEventListener('pointermove', move);
      element.removeEventListener('pointerup', up);
      element.removeEventListener('pointercancel', lost);
      element.removeEventListener('wheel', wheel);
    };
  }, [target]);
}
