import { useEffect, useRef } from 'react';

/**
 * The browser's Back closes layers over a screen before it leaves the screen. While one is open, history holds an
 * additional entry of the same address. If closed otherwise, that entry stays, since going back is asynchronous and
 * could interfere with what follows; it is reused for the next layer, and skipped by Back.
 */
interface OpenLayer {
  close(): void;
  /** Keyboard shortcuts of the screen below are inactive. */
  covers: boolean;
}

const layers: OpenLayer[] = [];
/** Layers that have history entries, by the current entry. */
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
    // An entry whose layer was closed otherwise.
    event.stopImmediatePropagation();
    window.history.back();
  }
}

/** Starts listening to Back, before the router's listener, which takes every entry for a screen. */
export function watchBack(): void {
  shown = window.history.state;
  window.addEventListener('popstate', onPopState, true);
}

/** Makes Back close a layer while it is open. `covers`: it covers the screen, like a sheet. */
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

/** Whether something covers the screen. */
export const isCovered = (): boolean => layers.some((l) => l.covers);
