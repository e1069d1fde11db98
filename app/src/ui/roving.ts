import type { KeyboardEvent } from 'react';

/** Steps that arrow keys, Home and End take along a list of `count` from `at`; undefined for other keys. */
export function rove(key: string, at: number, count: number): number | undefined {
  if (key === 'ArrowRight' || key === 'ArrowDown') return (at + 1) % count;
  if (key === 'ArrowLeft' || key === 'ArrowUp') return (at - 1 + count) % count;
  if (key === 'Home') return 0;
  return key === 'End' ? count - 1 : undefined;
}

/**
 * Keys of a group of choices that is one stop of Tab (ARIA Authoring Practices, radio group): arrows move to the next
 * one and take it, Space takes the one that has the focus.
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

/** What a key does where Space takes or leaves something. */
export function onSpace(then: () => void): { onKeyDown(event: KeyboardEvent): void } {
  return {
    onKeyDown(event) {
      if (event.key !== ' ') return;
      event.preventDefault();
      then();
    },
  };
}
