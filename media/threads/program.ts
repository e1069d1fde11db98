import { setPriority } from 'node:os';
import type { MessagePort } from 'node:worker_threads';
import { perform, type Task } from './tasks';

// On Linux the priority of process 0 is that of the calling thread: requests take precedence.
setPriority(0, 5);

/** Entry point of the pools' threads. */
export default function program({ task, port }: { task: Task; port?: MessagePort }): unknown {
  try {
    return perform(task, port && ((message) => port.postMessage(message)));
  } finally {
    port?.close();
  }
}
