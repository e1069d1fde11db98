import { useEffect, useRef } from 'react';

/**
 * The browser's Back closes what lies over a screen before it leaves the screen. While something is open, history holds
 * one more entry of the same address for it. Closed in another way, that entry stays, since going back takes effect
 * later than what is done next; it serves whatever is opened next, and Back skips it.
 */
interface OpenLayer {
  close(): void;
  /** Keys of the screen below do nothing. */
  covers: boolean;
}

const layers: OpenLayer[] = [];
/** Layers that history has entries for, by the entry that is shown. */
const depthOf = (state: unknown): number => (state as { layers?: number } | null)?.layers ?? 0;
const idOf = (state: unknown): string | undefined => (state as { id?: string } | null)?.id;
let shown: unknown = null;

function makeRoom(): void {
  const { history } = window;
  for (let depth = depthOf(history.state) + 1; depth <= layers.length; depth += 1)
    history.pushState({ ...(history.state as object), layers: depth }, '');
  shown = history.state;
}

function onPopState(event: PopStateEvent): void {
  const [before, depth] = [shown, depthOf(event.state)];
  shown = event.state;
  if (layers.length > depth) {
    event.stopImmediatePropagation();
    for (const layer of layers.slice(depth).reverse()) layer.close();
  } else if (depthOf(before) > depth && idOf(before) === idOf(event.state)) {
    // An entry whose layer was closed in another way.
    event.stopImmediatePropagation();
    window.history.back();
  }
}

/** Begins to watch Back: before the router's listener, which takes every entry for a screen. */
export function watchBack(): void {
  shown = window.history.state;
  window.addEventListener('popstate', onPopState, true);
}

/** Lets Back close something while it is open. `covers`: it lies over the screen, as a sheet does. */
export function useBackCloses(open: boolean, close: () => void, covers = true): void {
  const latest = useRef(close);
  useEffect(() => {
    latest.current = close;
  });
  useEffect(() => {
    if (!open) return undefined;
    const layer: OpenLayer = { close: () => latest.current(), covers };
    layers.push(layer);
    makeRoom();
    return () => {
      layers.splice(layers.indexOf(layer), 1);
    };
  }, [open, covers]);
}

/** Whether something lies over the screen. */
export const isCovered = (): boolean => layers.some((l) => l.covers);
