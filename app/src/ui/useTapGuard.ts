import { useLayoutEffect, useRef, type RefObject } from 'react';
import type { View } from 'react-native';

/** About the time from aiming to touching (common practice: 0.2 to 0.5 s). */
const GUARDED_MS = 400;
/** Where it changes again and again, taps count: nobody could scroll or stop anything otherwise. */
const PAUSE_MS = 2000;

/**
 * Ignores taps in a view for a moment after its `layout` has changed by itself: they were aimed at what was there
 * before, and would hit what has moved under the finger.
 */
export function useTapGuard(layout: string): RefObject<View | null> {
  const ref = useRef<View>(null);
  const last = useRef(layout);
  const guardedAt = useRef(-Infinity);
  useLayoutEffect(() => {
    const element = ref.current as unknown as HTMLElement | null;
    if (!element || last.current === layout) return;
    last.current = layout;
    const now = performance.now();
    if (now - guardedAt.current < PAUSE_MS) return;
    guardedAt.current = now;
    element.style.pointerEvents = 'none';
    setTimeout(() => (element.style.pointerEvents = ''), GUARDED_MS);
  }, [layout]);
  return ref;
}
