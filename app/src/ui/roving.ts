import type { KeyboardEvent } from 'react';

/** Offset for arrow keys, Home and End in a list of `count` from `at`; undefined for other keys. */
export function rove(key: string, at: number, count: number): number | undefined {
  if (key === 'ArrowRight' || key === 'ArrowDown') return (at + 1) % count;
  if (key === 'ArrowLeft' || key === 'ArrowUp') return (at - 1 + count) % count;
  if (key === 'Home') return 0;
  return key === 'End' ? count - 1 : undefined;
}

/**
 * Keyboard handling of a radio group with one tab stop (ARIA Authoring Practices): arrows move to the next option and
 * select it, Space selects the focused one.
 */
export function chooseByKey<V>(
  event: KeyboardEvent,
  values: readonly V[],
  at: number,
  choose: (value: V) => void,
): void {
  const to = event.key === ' ' ? at : rove(event.key, at, values.length);
  if (to === undefined) return;
  event.preventDefault();
  choose(values[to]);
  const group = event.currentTarget.closest('[role=radiogroup]');
  group?.querySelectorAll<HTMLElement>('[role=radio]')[to]?.focus();
}

/** Keyboard handling of toggles: Space toggles. */
export function onSpace(then: () => void): { onKeyDown(event: KeyboardEvent): void } {
  return {
    onKeyDown(event) {
      if (event.key !== ' ') return;
      event.preventDefault();
      then();
    },
  };
}
