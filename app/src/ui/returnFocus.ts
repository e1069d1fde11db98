import { useEffect, useState } from 'react';

/** The element focused when the last sheet was opened from the screen itself, not from another sheet. */
let onScreen: HTMLElement | null = null;

/**
 * Returns focus, when a sheet closes, to the element that opened it; if that is gone with another sheet, to the one
 * that opened that.
 */
export function useReturnFocus(): void {
  const [opener] = useState(() => {
    const active = document.activeElement instanceof HTMLElement ? document.activeElement : null;
    if (active && !active.closest('[role=dialog]')) onScreen = active;
    return active;
  });
  useEffect(
    () => () => {
      // Once the sheet is gone, unless something else was focused on purpose.
      setTimeout(() => {
        if (document.activeElement && document.activeElement !== document.body) return;
        const to = [opener, onScreen].find((e) => e?.isConnected && e !== document.body);
        to?.focus({ preventScroll: true });
      });
    },
    [opener],
  );
}
