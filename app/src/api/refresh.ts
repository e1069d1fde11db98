import { hashKey, type QueryClient, type QueryKey } from '@tanstack/react-query';

/** Rest between two fetches of what changes again and again, in milliseconds: at first, and at most. */
const REST_MS = { first: 200, most: 2000 };

interface UnderWay {
  /** It has changed since the fetch began that is under way, or that was the last one. */
  changed: boolean;
  /** It is not to rest before the next fetch. */
  hurries: boolean;
  /** Ends the rest after a fetch. */
  wake(): void;
}
/** What is being fetched, or was a moment ago. */
const underWay = new Map<string, UnderWay>();

/**
 * Fetches again what has changed on the server: at once, then ever more rarely while changes go on; the last fetch begins after the
 * last change. One fetch at a time: `invalidateQueries` alone breaks off one that is under way, and where changes come faster than
 * answers none would ever arrive. `now`: a person has changed it here, and does not wait for the rest of others' changes.
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
