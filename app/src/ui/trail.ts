import { usePathname, useRouter, type Href } from 'expo-router';
import { useEffect } from 'react';

const KEY = 'inkavo-trail';

/** Paths of this tab's screens, in the order of the browser's history, and the index of the current one. */
interface Trail {
  paths: string[];
  at: number;
}

/** The trail after navigating to a path: by the browser's Back or Forward, or onwards from the last. */
export function follow({ paths, at }: Trail, path: string, browsed: boolean, replaced: boolean): Trail {
  if (paths[at] === path) return { paths, at };
  if (browsed) {
    if (paths[at - 1] === path) return { paths, at: at - 1 };
    if (paths[at + 1] === path) return { paths, at: at + 1 };
    return { paths: [path], at: 0 };
  }
  const kept = paths.slice(0, replaced ? at : at + 1);
  return { paths: [...kept, path], at: kept.length };
}

function load(): Trail {
  try {
    const { paths, at } = JSON.parse(sessionStorage.getItem(KEY) ?? '') as Trail;
    if (paths[at] === window.location.pathname) return { paths, at };
  } catch {
    // A new tab.
  }
  return { paths: [], at: -1 };
}

let trail: Trail | undefined;
let browsed = false;
let replaced = false;
if (typeof window !== 'undefined') window.addEventListener('popstate', () => (browsed = true));

/** Follows navigation. Called once, around all screens. */
export function useTrail(): void {
  const path = usePathname();
  useEffect(() => {
    trail = follow((trail ??= load()), path, browsed, replaced);
    browsed = false;
    replaced = false;
    try {
      sessionStorage.setItem(KEY, JSON.stringify(trail));
    } catch {
      // Without storage, back leads to the parent screen.
    }
  }, [path]);
}

/**
 * Navigates back: through the browser's history if the previous screen is the wanted one (`up`), or for `up` null in
 * any case. Otherwise the parent screen replaces this one.
 */
export function useGoBack(): (up: Href | null, otherwise: Href) => void {
  const router = useRouter();
  return (up, otherwise) => {
    const last = trail?.paths[trail.at - 1];
    if (last !== undefined && (up === null || last === up)) return window.history.back();
    replaced = true;
    router.replace(up ?? otherwise);
  };
}
