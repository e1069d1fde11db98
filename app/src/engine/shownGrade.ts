import { DRAG_SIZE, REST_SIZE } from '@inkavo/core/program/bake';
import { readsFrame, type BakedOp } from '@inkavo/core/program/baked';
import { changesOverTime } from '@inkavo/core/program/compile';
import type { Planes } from '@inkavo/core/program/planes';
import { joined } from '@inkavo/core/model/lists';
import { shownLists, useBench } from '../state/bench';
import { tellTrouble } from '../state/messages';
import { coalesce } from './coalesce';
import { FineTables } from './fineTables';
import { readWithin } from './picture/regionLook';
import type { ScreenPicture } from './picture/screenPicture';
import type { Moment, Stamped } from './worker/frame';
import { engine } from './workers';

/** Nodes per edge of the first table after a change; the full one follows when idle. */
export const QUICK_SIZE = 33;

/** The grade's interface to the bench. */
interface ShownGradeHost {
  moment(): Moment;
  /** The planes of the shown frame. */
  planesAt(moment: Moment): Promise<Planes>;
  /** Number of frames shown so far. */
  shownFrame(): number;
  /** Whether the video's frame is shown. */
  isMoving(): boolean;
  /** Version of the measurements' inputs. */
  change(): number;
  draw(): void;
  /** A new table is available, which readings use. `rough`: during a drag. */
  baked(rough: boolean): void;
  /** The picture shows a table with this many nodes per edge. */
  settled(size: number): void;
}

/** The ops for drawing: the latest tables of the grade, from coarse to fine, and the planes of the frame. */
export class ShownGrade {
  private ops: readonly BakedOp[] = [];
  private planes: Planes = [];
  /** Requested nodes per edge; 0 if the grade has no effect. */
  private size = 0;
  /** Number of tables, and of measured frames. */
  private stamp = 0;
  /** Number of tables requested so far. */
  private wanted = 0;
  /** The change that the table includes. */
  private tableChange = 0;
  private closed = false;
  private readonly fine = new FineTables((ops) => this.bakeLatest(this.host.moment(), REST_SIZE, ops));

  constructor(
    private readonly picture: ScreenPicture,
    private readonly host: ShownGradeHost,
  ) {}

  /** Rebakes the grade: coarsely during a drag, at full size when idle. */
  rebake(): void {
    this.wanted += 1;
    const live = useBench.getState().live !== null;
    const moment = this.host.moment();
    this.bakeLatest(moment, live ? DRAG_SIZE : QUICK_SIZE);
    if (live) this.fine.leave();
    else this.fine.later(moment);
  }

  /** `made`: the ops, if already baked. */
  private readonly bakeLatest = coalesce(async (moment: Moment, size: number, made?: BakedOp[]) => {
    const { host, wanted } = this;
    const [shownFrame, change] = [host.shownFrame(), host.change()];
    const ready = made ?? engine().tables.bake(moment, size);
    const baked = await Promise.all([ready, host.planesAt(moment)]).catch((error: Error) => this.tell(error));
    if (this.closed || baked === undefined) return;
    const [ops] = baked;
    // Another frame may have arrived meanwhile, with its own planes.
    const planes = shownFrame === host.shownFrame() ? baked[1] : await host.planesAt(moment);
    try {
      this.picture.setOps(ops);
    } catch (error) {
      return this.tell(error as Error);
    }
    this.ops = ops;
    this.size = ops.length ? size : 0;
    this.stamp += 1;
    // While no other table is requested, this one is valid for later frames too.
    this.tableChange = wanted === this.wanted ? host.change() : change;
    this.takePlanes(planes);
    host.draw();
    host.baked(size === DRAG_SIZE);
    // The next table is baked from the latest state once this one is shown.
    await this.picture.draw.settled();
    host.settled(this.size);
  });

  /** During playback, tables and planes follow as fast as possible; frames never wait for them. */
  readonly follow = coalesce(async () => {
    const { host } = this;
    const moment = host.moment();
    const timed = this.isTimed;
    if (!timed && !this.readsFrame) return;
    const [ops, planes] = await Promise.all([
      timed ? engine().tables.bake(moment, DRAG_SIZE) : this.ops,
      host.planesAt(moment),
    ]);
    if (this.closed || !host.isMoving()) return;
    if (timed) {
      this.picture.setOps(ops);
      this.ops = ops;
      this.stamp += 1;
    }
    this.takePlanes(planes);
    host.draw();
  });

  private get isTimed(): boolean {
    return changesOverTime(joined(shownLists(useBench.getState())));
  }

  /** Another frame is shown: a table is valid for every frame, unless numbers change over the clip. */
  frameMoved(): void {
    if (this.isTimed) this.rebake();
    else this.tableChange = this.host.change();
  }

  takePlanes(planes: Planes): void {
    if (planes === this.planes) return;
    this.planes = planes;
    this.picture.setPlanes(planes);
  }

  /** The frame was measured: earlier readings belong to another. */
  measured(): void {
    this.stamp += 1;
  }

  /** The picture lost its resources. */
  setAgain(): void {
    this.picture.setOps(this.ops);
    this.picture.setPlanes(this.planes);
  }

  /** Whether planes of the frame are read. */
  get readsFrame(): boolean {
    return readsFrame(this.ops);
  }

  /** The change, as counted by {@link ShownGradeHost.change}, that the table includes. */
  get shownChange(): number {
    return this.tableChange;
  }

  readonly stamped = (): Stamped => ({
    ops: this.ops,
    planes: this.planes,
    stamp: this.stamp,
    size: this.size,
    ...readWithin(),
  });

  close(): void {
    this.closed = true;
    this.fine.leave();
  }

  private tell(error: Error): undefined {
    if (!this.closed) tellTrouble('engine', error.message);
    return undefined;
  }
}
