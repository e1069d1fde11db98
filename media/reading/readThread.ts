import { parentPort, workerData } from 'node:worker_threads';
import { doTask, type ReadTask } from './tasks';

parentPort!.postMessage({
  answer: doTask(workerData as ReadTask, (done) => parentPort!.postMessage({ done })),
});
