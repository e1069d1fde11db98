import { LRUCache } from 'lru-cache';
import { SharedWork } from './sharedWork';

interface Made {
  n: number;
}
/** Work that completes on demand, and counts how often it began. */
function slow() {
  let begun = 0;
  let until: AbortSignal | undefined;
  let end: { resolve(made: Made): void; reject(error: Error): void };
  const work = (signal: AbortSignal): Promise<Made> => {
    begun += 1;
    until = signal;
    return new Promise((resolve, reject) => {
      end = { resolve, reject };
      signal.addEventListener('abort', () => reject(new Error('stopped')));
    });
  };
  return {
    work,
    begun: () => begun,
    stopped: () => until?.aborted,
    done: (n: number) => end.resolve({ n }),
    fail: (text: string) => end.reject(new Error(text)),
  };
}

const cache = (): LRUCache<string, Made> => new LRUCache({ max: 4 });

test('work is done once for all who wait, and then kept', async () => {
  const [shared, kept, job] = [new SharedWork(), cache(), slow()];
  const both = [shared.once(kept, 'a', job.work), shared.once(kept, 'a', job.work)];
  job.done(1);
  expect(await Promise.all(both)).toEqual([{ n: 1 }, { n: 1 }]);
  expect(await shared.once(kept, 'a', job.work)).toEqual({ n: 1 });
  expect(job.begun()).toBe(1);
});

test('it goes on while one waits, and stops when the last has gone', async () => {
  const [shared, kept, job] = [new SharedWork(), cache(), slow()];
  const [first, second] = [new AbortController(), new AbortController()];
  const waiting = [first, second].map(({ signal }) => shared.once(kept, 'a', job.work, signal).catch(() => 'gone'));
  first.abort();
  expect(job.stopped()).toBe(false);
  second.abort();
  expect(job.stopped()).toBe(true);
  expect(await Promise.all(waiting)).toEqual(['gone', 'gone']);
  // Later requests start over.
  const again = shared.once(kept, 'a', job.work);
  job.done(2);
  expect(await again).toEqual({ n: 2 });
  expect(job.begun()).toBe(2);
});

test('what fails is heard of by all who wait, and not kept', async () => {
  const [shared, kept, job] = [new SharedWork(), cache(), slow()];
  const both = [1, 2].map(() => shared.once(kept, 'a', job.work).catch((error: Error) => error.message));
  job.fail('no frame');
  expect(await Promise.all(both)).toEqual(['no frame', 'no frame']);
  const again = shared.once(kept, 'a', job.work);
  job.done(3);
  expect(await again).toEqual({ n: 3 });
});

test('nothing begins for somebody who has gone', async () => {
  const [shared, job] = [new SharedWork(), slow()];
  await expect(shared.share('a', job.work, AbortSignal.abort())).rejects.toThrow();
  expect(job.begun()).toBe(0);
});
