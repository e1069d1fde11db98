import { transfer } from 'comlink';
import type { Step } from '@inkavo/core/model/grade';
import type { BakedOp } from '@inkavo/core/program/baked';
import { Baker } from '@inkavo/core/program/baker';
import { knownLut, lutIds, provideLut } from '@inkavo/core/steps/lut/library';
import { api as server } from '../../api/client';
import { numberedCopy } from '../sentTables';
import { yieldToEvents } from './yieldToEvents';
import type { Moment } from './frame';

const baker = new Baker();
/** For large tables, baked in slices; the other baker stays available during drags. */
const slowBaker = new Baker();
/** Number of the latest sliced bake, requested or cancelled. */
let slices = 0;

/**
 * Ops for sending to the page: copies, since the baker caches its tables; copying takes place here, not on the main
 * thread.
 */
function handedOver(baked: BakedOp[]): BakedOp[] {
  const ops = baked.map(numberedCopy);
  return transfer(
    ops,
    ops.flatMap((p) => (p.kind === 'table' ? [p.table.data.buffer as ArrayBuffer] : [])),
  );
}

/** Fetches tables that steps use and that this worker does not have yet. */
export async function fetchLuts(steps: Step[]): Promise<void> {
  for (const id of lutIds(steps)) if (!knownLut(id)) provideLut(id, await server.lutText(id));
}

/** Baking functions of a worker. */
export const bakingApi = {
  /** Bakes the ops of a grade; none when its steps have no effect. */
  async bake({ steps, seconds, show }: Moment, size: number): Promise<BakedOp[]> {
    await fetchLuts(steps);
    return handedOver(baker.bake(steps, seconds, size, show));
  },

  /** The same in slices, for large tables, so that other requests are handled meanwhile; undefined: cancelled. */
  async bakeInSlices({ steps, seconds, show }: Moment, size: number): Promise<BakedOp[] | undefined> {
    const mine = (slices += 1);
    await fetchLuts(steps);
    const ops = await slowBaker.bakeInSlices(steps, seconds, size, show, async () => {
      await yieldToEvents();
      return mine === slices;
    });
    return ops && handedOver(ops);
  },

  /** Cancels the sliced bake. */
  leaveSlices(): void {
    slices += 1;
  },
};
