import { Worker } from 'node:worker_threads';
import { MediaError } from '../codec/run';
import { threadProgram } from '../threadProgram';
import type { ReadAnswers, ReadTask } from './tasks';

const PROGRAM = 'reading/readThread.ts';

/** Makes the thread's program ready. */
export const warmReading = (): void => void threadProgram(PROGRAM);

/** Does a reading task in a thread, so that whoever asks stays free. Rejects with a {@link MediaError}. */
export function inThread<T extends ReadTask>(
  task: T,
  { signal, onProgress }: { signal?: AbortSignal; onProgress?: (done: number) => void } = {},
): Promise<ReadAnswers[T['kind']]> {
  return new Promise((resolve, reject) => {
    const thread = new Worker(threadProgram(PROGRAM), { workerData: task });
    const stop = (): void => {
      void thread.terminate();
      reject(new MediaError('Stopped.'));
    };
    signal?.addEventListener('abort', stop, { once: true });
    thread.on('message', (m: { done?: number; answer?: ReadAnswers[T['kind']] }) => {
      if (m.done !== undefined) onProgress?.(m.done);
      else resolve(m.answer as ReadAnswers[T['kind']]);
    });
    thread.on('error', (error) => reject(new MediaError('The clip could not be read.', String(error))));
    thread.on('exit', () => {
      signal?.removeEventListener('abort', stop);
      reject(new MediaError('The clip could not be read.'));
    });
  });
}
