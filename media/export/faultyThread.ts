import { workerData } from 'node:worker_threads';
import { Ring } from './ring';
import type { ThreadTask } from './thread';

/**
 * For tests: an export's thread that fails as `INKAVO_FAULT` says, "role:frame:how". It throws or exits when it reaches
 * that frame; frame −1 is before it has opened anything.
 */
const [role, frame, how] = (process.env.INKAVO_FAULT ?? '').split(':');

function fail(): void {
  if (how === 'exit') process.exit(0);
  throw new Error('A fault for a test.');
}

if ((workerData as ThreadTask).role === role) {
  if (Number(frame) < 0) fail();
  const { waitFor } = Ring.prototype;
  Ring.prototype.waitFor = function (k: number, state: number): boolean {
    if (k >= Number(frame)) fail();
    return waitFor.call(this, k, state);
  };
}
void import('./thread');
