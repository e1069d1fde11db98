import { availableParallelism } from 'node:os';
import { MessageChannel } from 'node:worker_threads';
import { Piscina } from 'piscina';
import { MediaError } from '../codec/run';
import { threadProgram } from './path';
import type { Answers, Task, MessageOf } from './tasks';

/** Thread pools by kind of work, so that slow kinds never delay others. */
const SORTS = {
  reading: {
    kinds: ['firstPass', 'holdCheck', 'waterClock', 'fileReading', 'match', 'noiseSeen'],
    threads: 2,
    megabytes: 2048,
  },
  following: { kinds: ['follow', 'corners'], threads: 1, megabytes: 1024 },
  pictures: {
    kinds: ['picture', 'readings', 'cells'],
    threads: Math.max(1, availableParallelism() - 1),
    megabytes: 1024,
  },
  // A user waits for the frame: it is not queued behind thumbnails.
  sending: { kinds: ['pack'], threads: 1, megabytes: 512 },
  // Large frames take seconds: thumbnails are not queued behind them. Frames are outside this memory.
  noise: { kinds: ['noise'], threads: 1, megabytes: 1024 },
  // A still of 8192 × 4608 takes 0.45 GB of floats.
  stills: { kinds: ['still'], threads: 1, megabytes: 4096 },
  // The largest accepted text, a cube of 210 nodes an edge, needs 0.43 GB while it is read (measured).
  shelf: { kinds: ['shelfFile', 'gradeFile'], threads: 1, megabytes: 2048 },
} as const;
type Sort = keyof typeof SORTS;

const IDLE_MS = 60_000;
const TIMEOUT_MS = 10 * 60_000;
const pools = new Map<Sort, Piscina>();

function poolFor(kind: Task['kind']): Piscina {
  const sort = (Object.keys(SORTS) as Sort[]).find((s) => (SORTS[s].kinds as readonly string[]).includes(kind))!;
  const { threads, megabytes } = SORTS[sort];
  const known = pools.get(sort);
  if (known) return known;
  const pool = new Piscina({
    filename: threadProgram('tasks'),
    minThreads: 1,
    maxThreads: threads,
    idleTimeout: IDLE_MS,
    resourceLimits: { maxOldGenerationSizeMb: megabytes },
  });
  pools.set(sort, pool);
  return pool;
}

/** Starts threads in advance for the first requests. */
export const warmThreads = (): void => void (poolFor('firstPass'), poolFor('picture'));

/** Stops all threads; their tasks are rejected. */
export async function closeThreads(): Promise<void> {
  const open = [...pools.values()];
  pools.clear();
  await Promise.all(open.map((pool) => pool.destroy()));
}

/**
 * Runs a task in a thread. `gives`: buffers of the task to transfer instead of copying; they are detached here.
 * `onMessage` receives messages while it runs. Rejects with a {@link MediaError}.
 */
export async function inThread<T extends Task>(
  task: T,
  {
    signal,
    onMessage,
    gives = [],
  }: { signal?: AbortSignal; onMessage?: (message: MessageOf<T['kind']>) => void; gives?: ArrayBuffer[] } = {},
): Promise<Answers[T['kind']]> {
  const timeout = AbortSignal.timeout(TIMEOUT_MS);
  const { port1, port2 } = new MessageChannel();
  port1.on('message', (message: MessageOf<T['kind']>) => onMessage?.(message));
  try {
    const message = onMessage ? { task, port: port2 } : { task };
    return (await poolFor(task.kind).run(message, {
      signal: signal ? AbortSignal.any([signal, timeout]) : timeout,
      transferList: [...(onMessage ? [port2] : []), ...gives],
    })) as Answers[T['kind']];
  } catch (error) {
    if (signal?.aborted) throw new MediaError('Stopped.');
    if (timeout.aborted) throw new MediaError('This took too long and was given up.');
    throw new MediaError('This could not be computed.', String((error as Error).stack ?? error));
  } finally {
    port1.close();
  }
}
