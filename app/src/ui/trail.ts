import { usePathname, useRouter, type Href } from 'expo-router';
import { useEffect } from 'react';

const KEY = 'inkavo-trail';

/** Paths of the screens that were shown in this tab, as the browser's history has them, and which is shown. */
interface Trail {
  paths: string[];
  at: number;
}

/** The trail after a screen with a path is shown: by the browser's Back or Forward, or by going on from the last. */
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

/** Follows the screens as they change. Called once, around all of them. */
export function useTrail(): void {
  const path = usePathname();
  useEffect(() => {
    trail = follow((trail ??= load()), path, browsed, replaced);
    browsed = false;
    replaced = false;
    try {
      sessionStorage.setItem(KEY, JSON.stringify(trail));
    } catch {
      // Without room for it, the way back leads to the screen above.
    }
  }, [path]);
}

/**
 * Leads back to where one came from: through the browser's history where the last screen is the wanted one (`up`), or
 * for `up` null whichever it was. Otherwise the screen above takes the place of this one.
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
