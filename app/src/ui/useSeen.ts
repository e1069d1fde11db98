import { useEffect, useRef, useState, type RefObject } from 'react';

/** Margin around the window within which an element counts as about to be visible. */
const AHEAD = '200px';

/** Whether an element is, or was, near the window, so that its content should be loaded. */
export function useSeen<E extends Element>(): [RefObject<E | null>, boolean] {
  const ref = useRef<E>(null);
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    if (seen || !ref.current) return undefined;
    const watch = new IntersectionObserver((entries) => entries.some((e) => e.isIntersecting) && setSeen(true), {
      rootMargin: AHEAD,
    });
    watch.observe(ref.current);
    return () => watch.disconnect();
  }, [seen]);
  return [ref, seen];
}
