import { onReconnect, useConnection } from '../state/connection';
import { isUnanswered } from './client';

/** Delay after which a request that got no answer is repeated while the server is reachable otherwise. */
const AGAIN_MS = 10_000;

interface Asking<T> {
  answered(value: T): void;
  /** May be followed by `answered`: a request without an answer is repeated. */
  failed(error: Error): void;
  /** It is asked again. */
  again?(): void;
}

/**
 * Makes a request that nobody taps for again, and repeats it after a reconnection as long as it gets no answer.
 * Returns a function that cancels it.
 */
export function untilAnswered<T>(ask: (signal: AbortSignal) => Promise<T>, asking: Asking<T>): () => void {
  const controller = new AbortController();
  const { signal } = controller;
  let stop = (): void => undefined;
  const again = (): void => {
    stop();
    asking.again?.();
    go();
  };
  const go = (): void => {
    const { times } = useConnection.getState();
    ask(signal).then(
      (value) => {
        if (!signal.aborted) asking.answered(value);
      },
      (error: Error) => {
        if (signal.aborted) return;
        asking.failed(error);
        if (!isUnanswered(error)) return;
        const now = useConnection.getState();
        if (now.times !== times) return again();
        const timer = now.online ? setTimeout(again, AGAIN_MS) : undefined;
        const unsubscribe = onReconnect(again);
        stop = () => {
          clearTimeout(timer);
          unsubscribe();
        };
      },
    );
  };
  go();
  return () => {
    controller.abort();
    stop();
  };
}
