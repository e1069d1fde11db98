import { create } from 'zustand';

/**
 * Whether the server is reachable, according to the event stream. `times` counts reconnections: failed and waiting
 * requests are repeated when it increases.
 */
export const useConnection = create<{ online: boolean; times: number }>(() => ({ online: true, times: 0 }));

let living = new AbortController();
/** Reason for requests that failed since the connection died. */
let dead: Error | undefined;

/** Aborts when the connection has died silently; combined with every new request. */
export const connectionSignal = (): AbortSignal => living.signal;

function endRequests(reason: Error): void {
  const before = living;
  living = new AbortController();
  before.abort(reason);
}

/** Nothing arrives from the server any more, including heartbeats: requests in progress end with `reason`. */
export function stalled(reason: Error): void {
  dead = reason;
  endRequests(reason);
  disconnected();
}

/**
 * The server answers again. Requests that were lost in between are ended first, and their callers get to know before
 * this tells of the reconnection: otherwise they would fail just after what repeats failed requests has run.
 */
export async function connected(): Promise<void> {
  if (dead) {
    endRequests(dead);
    dead = undefined;
    // Rejections pass through promises only, all of which have run before the next task.
    await new Promise((done) => setTimeout(done));
  }
  const { online, times } = useConnection.getState();
  if (!online) useConnection.setState({ online: true, times: times + 1 });
}

export function disconnected(): void {
  if (useConnection.getState().online) useConnection.setState({ online: false });
}

/** Calls back at each reconnection, until unsubscribed. */
export const onReconnect = (then: () => void): (() => void) =>
  useConnection.subscribe((now, before) => now.times !== before.times && then());

/** Resolves with true once the server is reachable, maybe at once; with false if it is not within `ms` milliseconds. */
export function reachable(ms: number): Promise<boolean> {
  if (ms <= 0 || useConnection.getState().online) return Promise.resolve(ms > 0);
  return new Promise((resolve) => {
    const end = (is: boolean): void => {
      clearTimeout(timer);
      stop();
      resolve(is);
    };
    const timer = setTimeout(() => end(false), ms);
    const stop = onReconnect(() => end(true));
  });
}
