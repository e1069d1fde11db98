/** A task that only ever works on the newest request. */
export interface Coalesced<A extends unknown[]> {
  (...args: A): void;
  /** Resolves when nothing is under way or waiting. */
  settled(): Promise<void>;
}

/**
 * Runs an asynchronous task for the newest request only: while one is under way, later ones replace each other, and
 * the last of them runs next. So a finger that moves faster than the computation never builds a queue.
 */
export function coalesce<A extends unknown[]>(task: (...args: A) => Promise<void>): Coalesced<A> {
  let next: A | undefined;
  let running: Promise<void> | undefined;
  const drain = async (): Promise<void> => {
    while (next) {
      const args = next;
      next = undefined;
      try {
        await task(...args);
      } catch (error) {
        console.error(error);
      }
    }
    running = undefined;
  };
  const request = (...args: A): void => {
    next = args;
    running ??= drain();
  };
  return Object.assign(request, { settled: async () => running });
}
