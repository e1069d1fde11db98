import { useEffect, useRef } from 'react';
import { tinykeys } from 'tinykeys';
import { create } from 'zustand';
import { isCovered } from './backCloses';

/** A key, or key combination, and its action. */
export interface Shortcut {
  /** In tinykeys' notation: `$mod+KeyZ`, `Shift+?`, `e`. */
  keys: string;
  /** As displayed in the list. */
  shown: string;
  what: string;
  run(): void;
}

const KEY = 'inkavo-letter-keys';

/** Shortcuts of the current screens, and whether keys without Ctrl or Cmd are enabled (WCAG 2.2, 2.1.4). */
export const useShortcutList = create<{
  lists: Shortcut[][];
  letters: boolean;
  setLetters(on: boolean): void;
}>((set) => ({
  lists: [],
  letters: localStorage.getItem(KEY) !== 'off',
  setLetters(letters) {
    localStorage.setItem(KEY, letters ? 'on' : 'off');
    set({ letters });
  },
}));

const isPlain = (keys: string): boolean => !keys.includes('$mod');
const TYPED_IN = 'input:not([type=range],[type=file]), textarea, select, [contenteditable=true]';
/** Elements that handle Space, Enter and arrows themselves. */
const TAKES_KEYS =
  'button, a, [role=button], [role=link], [role=radio], [role=checkbox], [role=slider], [role=application]';
const OWN_KEYS = [' ', 'Enter', 'ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End'];

/** Whether a key belongs to the focused element, or to a layer over the screen. */
function isTaken(event: KeyboardEvent, keys: string): boolean {
  const target = event.target instanceof Element ? event.target : document.body;
  if (event.defaultPrevented || isCovered() || target.closest(TYPED_IN)) return true;
  if (isPlain(keys) && !useShortcutList.getState().letters) return true;
  return OWN_KEYS.includes(event.key) && target.closest(TAKES_KEYS) !== null;
}

/** Enables shortcuts while a component is mounted. Keys and their order must be constant. */
export function useShortcuts(shortcuts: Shortcut[]): void {
  const latest = useRef(shortcuts);
  useEffect(() => {
    latest.current = shortcuts;
  });
  useEffect(() => {
    const list = latest.current;
    useShortcutList.setState(({ lists }) => ({ lists: [...lists, list] }));
    const stop = tinykeys(
      window,
      Object.fromEntries(
        list.map(({ keys }, i) => [
          keys,
          (event: KeyboardEvent) => {
            if (isTaken(event, keys)) return;
            event.preventDefault();
            latest.current[i].run();
          },
        ]),
      ),
    );
    return () => {
      stop();
      useShortcutList.setState(({ lists }) => ({ lists: lists.filter((l) => l !== list) }));
    };
  }, []);
}
