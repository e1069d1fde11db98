import { create } from 'zustand';

/**
 * Whether the server can be reached, as the event stream has it. `times` counts how often it came back: what failed or
 * waited meanwhile is asked for again when it grows.
 */
export const useConnection = create<{ online: boolean; times: number }>(() => ({ online: true, times: 0 }));

let living = new AbortController();
/** Since the connection went dead: why what was asked over it has no answer. */
let dead: Error | undefined;

/** Aborts when the connection has gone dead, with nothing that would tell a request so: for every request that is made now. */
export const connectionSignal = (): AbortSignal => living.signal;

function endRequests(reason: Error): void {
  const before = living;
  living = new AbortController();
  before.abort(reason);
}

/** Nothing comes from the server any more, not even that it is there: what is under way ends with `reason`. */
export function stalled(reason: Error): void {
  dead = reason;
  endRequests(reason);
  disconnected();
}

export function connected(): void {
  // What was asked meanwhile went into nothing.
  if (dead) endRequests(dead);
  dead = undefined;
  const { online, times } = useConnection.getState();
  if (!online) useConnection.setState({ online: true, times: times + 1 });
}

export function disconnected(): void {
  if (useConnection.getState().online) useConnection.setState({ online: false });
}

/** Calls back each time the server can be reached again, until what is returned is called. */
export const onReconnect = (then: () => void): (() => void) =>
  useConnection.subscribe((now, before) => now.times !== before.times && then());
