import { createContext, useContext, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';

interface Group {
  /** The ruler that has the tab stop. */
  current: string;
  enter(key: string): void;
}
const GroupContext = createContext<Group | null>(null);

/** Rulers that share one tab stop: up and down move between them. `keys`: the visible ones, in order. */
export function RulerGroup({ keys, children }: { keys: readonly string[]; children: ReactNode }) {
  const ref = useRef<HTMLDivElement>(null);
  const [last, enter] = useState('');
  const current = keys.includes(last) ? last : (keys[0] ?? '');
  const onKeyDown = (e: KeyboardEvent): void => {
    const by = { ArrowUp: -1, ArrowDown: 1 }[e.key];
    const rulers = [...(ref.current?.querySelectorAll<HTMLElement>('[data-ruler]') ?? [])];
    const at = rulers.indexOf(document.activeElement as HTMLElement);
    if (!by || at < 0) return;
    e.preventDefault();
    rulers[(at + by + rulers.length) % rulers.length].focus();
  };
  return (
    <GroupContext.Provider value={{ current, enter }}>
      <div ref={ref} onKeyDown={onKeyDown} style={{ display: 'contents' }}>
        {children}
      </div>
    </GroupContext.Provider>
  );
}

/** Tab stop handling of a ruler; a ruler without a group always has one. */
export function useRulerStop(key: string): { tabIndex: 0 | -1; onFocus?(): void; 'data-ruler'?: string } {
  const group = useContext(GroupContext);
  if (!group) return { tabIndex: 0 };
  return { tabIndex: group.current === key ? 0 : -1, onFocus: () => group.enter(key), 'data-ruler': key };
}

/** Whether a ruler is in a group, which uses up and down. */
export const useInGroup = (): boolean => useContext(GroupContext) !== null;
