import type { LRUCache } from 'lru-cache';

interface Shared<T> {
  result: Promise<T>;
  controller: AbortController;
  waiting: number;
}

/** Work shared by several requests: run once, and cancelled when none of them waits any more. */
export class SharedWork {
  private readonly underWay = new Map<string, Shared<unknown>>();

  /** Cached value of a key, or the work that computes it. Failures are not cached. */
  async once<T extends object>(
    kept: LRUCache<string, T>,
    key: string,
    work: (until: AbortSignal) => Promise<T>,
    signal?: AbortSignal,
  ): Promise<T> {
    const known = kept.get(key);
    if (known) return known;
    return this.share(
      key,
      async (until) => {
        const made = await work(until);
        kept.set(key, made);
        return made;
      },
      signal,
    );
  }

  /** The work for a key, shared by all who wait for it. Rejects immediately if the signal has already fired. */
  async share<T>(key: string, work: (until: AbortSignal) => Promise<T>, signal?: AbortSignal): Promise<T> {
    signal?.throwIfAborted();
    const known = this.underWay.get(key) as Shared<T> | undefined;
    const shared = known ?? this.begin(key, work);
    shared.waiting += 1;
    const leave = (): void => {
      shared.waiting -= 1;
      if (shared.waiting > 0) return;
      this.underWay.delete(key);
      shared.controller.abort();
    };
    signal?.addEventListener('abort', leave, { once: true });
    try {
      return await shared.result;
    } finally {
      signal?.removeEventListener('abort', leave);
    }
  }

  private begin<T>(key: string, work: (until: AbortSignal) => Promise<T>): Shared<T> {
    const controller = new AbortController();
    const result = work(controller.signal).finally(() => {
      if (this.underWay.get(key) === shared) this.underWay.delete(key);
    });
    const shared: Shared<T> = { result, controller, waiting: 0 };
    // Waiting requests are informed of a failure; there may be none left.
    result.catch(() => undefined);
    this.underWay.set(key, shared);
    return shared;
  }
}
