import { hashKey, type QueryClient, type QueryKey } from '@tanstack/react-query';

/** Minimum and maximum delay in milliseconds between two fetches of frequently changing data. */
const REST_MS = { first: 200, most: 2000 };

interface UnderWay {
  /** It has changed since the current or last fetch began. */
  changed: boolean;
  /** The next fetch should not be delayed. */
  hurries: boolean;
  /** Ends the delay after a fetch. */
  wake(): void;
}
/** Queries being fetched, or fetched recently. */
const underWay = new Map<string, UnderWay>();

/**
 * Refetches changed data: at once, then with increasing delay while changes continue; the last fetch begins after the
 * last change. One fetch at a time: plain `invalidateQueries` would cancel the current one, and if changes come faster
 * than responses none would ever complete. `now`: the user changed it here and should not wait.
 */
export async function refresh(client: QueryClient, queryKey: QueryKey, now = false): Promise<void> {
  const key = hashKey(queryKey);
  const known = underWay.get(key);
  if (known) {
    known.changed = true;
    if (now) {
      known.hurries = true;
      known.wake();
    }
    return;
  }
  const state: UnderWay = { changed: true, hurries: false, wake: () => undefined };
  underWay.set(key, state);
  for (let rest = REST_MS.first; state.changed; rest = Math.min(REST_MS.most, 2 * rest)) {
    state.changed = false;
    await client.invalidateQueries({ queryKey });
    await new Promise<void>((done) => {
      state.wake = done;
      if (state.hurries) done();
      else setTimeout(done, rest);
    });
    state.hurries = false;
  }
  underWay.delete(key);
}
