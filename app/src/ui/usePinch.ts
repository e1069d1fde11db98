import { useEffect, useRef, type RefObject } from 'react';

/** A step of a pinch, in pixels of the element's own box. */
export interface Pinch {
  /** The midpoint between the two fingers. */
  x: number;
  y: number;
  /** Movement of the midpoint since the last step, and the ratio of distances. */
  dx: number;
  dy: number;
  factor: number;
  width: number;
  height: number;
}

/** Tracks two fingers over an element. */
export function usePinch<T extends HTMLElement>(target: RefObject<T | null>, onPinch: (p: Pinch) => void): void {
  const latest = useRef(onPinch);
  useEffect(() => {
    latest.current = onPinch;
  });
  useEffect(() => {
    const element = target.current;
    if (!element) return undefined;
    const fingers = new Map<number, { x: number; y: number }>();
    const measure = (): { x: number; y: number; apart: number } => {
      const [a, b] = [...fingers.values()];
      return { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, apart: Math.max(10, Math.hypot(a.x - b.x, a.y - b.y)) };
    };
    const down = (e: PointerEvent): void => {
      if (e.pointerType !== 'mouse') fingers.set(e.pointerId, { x: e.clientX, y: e.clientY });
    };
    const move = (e: PointerEvent): void => {
      if (!fingers.has(e.pointerId)) return;
      const before = fingers.size === 2 ? measure() : undefined;
      fingers.set(e.pointerId, { x: e.clientX, y: e.clientY });
      if (!before) return;
      const now = measure();
      const box = element.getBoundingClientRect();
      latest.current({
        x: now.x - box.left,
        y: now.y - box.top,
        dx: now.x - before.x,
        dy: now.y - before.y,
        factor: now.apart / before.apart,
        width: box.width,
        height: box.height,
      });
    };
    const up = (e: PointerEvent): void => void fingers.delete(e.pointerId);
    const listeners = { pointerdown: down, pointermove: move, pointerup: up, pointercancel: up } as const;
    for (const [name, listener] of Object.entries(listeners)) element.addEventListener(name as 'pointerdown', listener);
    return () => {
      for (const [name, listener] of Object.entries(listeners))
        element.removeEventListener(name as 'pointerdown', listener);
    };
  }, [target]);
}
