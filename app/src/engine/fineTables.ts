import { REST_SIZE } from '@inkavo/core/program/bake';
import type { BakedOp } from '@inkavo/core/program/baked';
import type { Moment } from './worker/frame';
import { tellTrouble } from '../state/messages';
import { engine } from './workers';

/** Idle time before the full tables are baked. */
const SETTLE_MS = 220;

/**
 * The full tables of a grade, which take long: baked in the background when idle, and cancelled by the next
 * interaction.
 */
export class FineTables {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private wanted = 0;
  private baking = false;

  /** `made`: called with the ops, unless cancelled. */
  constructor(private readonly made: (ops: BakedOp[]) => void) {}

  /** Cancels what is pending or running. */
  leave(): void {
    clearTimeout(this.timer);
    this.wanted += 1;
    if (this.baking) void engine().tables.leaveSlices();
    this.baking = false;
  }

  /** Requests them for this grade, unless it changes soon. */
  later(moment: Moment): void {
    this.leave();
    this.timer = setTimeout(() => void this.bake(moment), SETTLE_MS);
  }

  private async bake(moment: Moment): Promise<void> {
    const { wanted } = this;
    this.baking = true;
    try {
      const ops = await engine().tables.bakeInSlices(moment, REST_SIZE);
      if (ops && wanted === this.wanted) this.made(ops);
    } catch (error) {
      if (wanted === this.wanted) tellTrouble('engine', (error as Error).message);
    } finally {
      if (wanted === this.wanted) this.baking = false;
    }
  }
}
