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
/** For large tables, which are baked in slices; the other one is free for a finger meanwhile. */
const slowBaker = new Baker();
/** The last bake in slices that was asked for or left, by its number. */
let slices = 0;

/** Ops on their way to the page. The baker keeps its tables; what goes over is a copy that costs the page nothing. */
function handedOver(baked: BakedOp[]): BakedOp[] {
  const ops = baked.map(numberedCopy);
  return transfer(
    ops,
    ops.flatMap((p) => (p.kind === 'table' ? [p.table.data.buffer as ArrayBuffer] : [])),
  );
}

/** Fetches the tables that steps use and that this worker does not know yet. */
export async function fetchLuts(steps: Step[]): Promise<void> {
  for (const id of lutIds(steps)) if (!knownLut(id)) provideLut(id, await server.lutText(id));
}

/** What a worker bakes. */
export const bakingApi = {
  /** Makes the ops of a grade ready; none when its steps do nothing. */
  async bake({ steps, seconds, show }: Moment, size: number): Promise<BakedOp[]> {
    await fetchLuts(steps);
    return handedOver(baker.bake(steps, seconds, size, show));
  },

  /** The same in slices, for large tables, so that something else can be asked for meanwhile; undefined: it was left. */
  async bakeInSlices({ steps, seconds, show }: Moment, size: number): Promise<BakedOp[] | undefined> {
    const mine = (slices += 1);
    await fetchLuts(steps);
    const ops = await slowBaker.bakeInSlices(steps, seconds, size, show, async () => {
      await yieldToEvents();
      return mine === slices;
    });
    return ops && handedOver(ops);
  },

  /** What is baked in slices is not wanted any more. */
  leaveSlices(): void {
    slices += 1;
  },
};
