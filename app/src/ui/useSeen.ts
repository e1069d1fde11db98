import { useEffect, useRef, useState, type RefObject } from 'react';

/** How far outside of the window something counts as about to be seen. */
const AHEAD = '200px';

/** Whether an element is, or was, near the window: what is never seen need not be fetched. */
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
