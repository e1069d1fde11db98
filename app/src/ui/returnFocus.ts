import { useEffect, useState } from 'react';

/** What had the focus when the last sheet was opened from the screen itself, not from another sheet. */
let onScreen: HTMLElement | null = null;

/** Gives the focus back, when a sheet closes, to what opened it; where that is gone with another sheet, to what opened that. */
export function useReturnFocus(): void {
  const [opener] = useState(() => {
    const active = document.activeElement instanceof HTMLElement ? document.activeElement : null;
    if (active && !active.closest('[role=dialog]')) onScreen = active;
    return active;
  });
  useEffect(
    () => () => {
      // Once the sheet is gone, unless something else has taken the focus on purpose.
      setTimeout(() => {
        if (document.activeElement && document.activeElement !== document.body) return;
        const to = [opener, onScreen].find((e) => e?.isConnected && e !== document.body);
        to?.focus({ preventScroll: true });
      });
    },
    [opener],
  );
}
