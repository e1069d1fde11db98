/** A task that only processes the latest request. */
export interface Coalesced<A extends unknown[]> {
  (...args: A): void;
  /** Resolves when nothing is running or pending. */
  settled(): Promise<void>;
}

/**
 * Coalesces requests of an asynchronous task: while one is running, later ones replace each other, and the last of them
 * runs next. So pointer events faster than the computation never build up a queue.
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
