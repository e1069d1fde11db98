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

/** Nodes an edge of the first table after a change; the full one follows when nothing moves any more. */
export const QUICK_SIZE = 33;

/** What the grade has to know of the bench, and what it does there. */
interface ShownGradeHost {
  moment(): Moment;
  /** The planes of the frame that is shown. */
  planesAt(moment: Moment): Promise<Planes>;
  /** Counts the frames that were shown. */
  shownFrame(): number;
  /** Whether the frame that is shown is the video's. */
  isMoving(): boolean;
  /** Counts what makes measurements out of date. */
  change(): number;
  draw(): void;
  /** A table has come: what is read is read through it. `rough`: while a finger moves. */
  baked(rough: boolean): void;
  /** The picture shows a table of so many nodes an edge. */
  settled(size: number): void;
}

/** What the picture is drawn through: the newest tables of the grade, from coarse to fine, and the planes of the frame. */
export class ShownGrade {
  private ops: readonly BakedOp[] = [];
  private planes: Planes = [];
  /** Nodes an edge that were asked for; 0 where the grade does nothing. */
  private size = 0;
  /** Counts the tables, and the frames that were measured. */
  private stamp = 0;
  /** How many tables have been wanted. */
  private wanted = 0;
  /** The change that the table shows. */
  private tableChange = 0;
  private closed = false;
  private readonly fine = new FineTables((ops) => this.bakeLatest(this.host.moment(), REST_SIZE, ops));

  constructor(
    private readonly picture: ScreenPicture,
    private readonly host: ShownGradeHost,
  ) {}

  /** Has the grade baked anew: coarsely while a finger moves, finely once nothing changes any more. */
  rebake(): void {
    this.wanted += 1;
    const live = useBench.getState().live !== null;
    const moment = this.host.moment();
    this.bakeLatest(moment, live ? DRAG_SIZE : QUICK_SIZE);
    if (live) this.fine.leave();
    else this.fine.later(moment);
  }

  /** `made`: the ops, where they were baked already. */
  private readonly bakeLatest = coalesce(async (moment: Moment, size: number, made?: BakedOp[]) => {
    const { host, wanted } = this;
    const [shownFrame, change] = [host.shownFrame(), host.change()];
    const ready = made ?? engine().tables.bake(moment, size);
    const baked = await Promise.all([ready, host.planesAt(moment)]).catch((error: Error) => this.tell(error));
    if (this.closed || baked === undefined) return;
    const [ops] = baked;
    // Another frame may have come meanwhile: its planes are its own.
    const planes = shownFrame === host.shownFrame() ? baked[1] : await host.planesAt(moment);
    try {
      this.picture.setOps(ops);
    } catch (error) {
      return this.tell(error as Error);
    }
    this.ops = ops;
    this.size = ops.length ? size : 0;
    this.stamp += 1;
    // While no other one is wanted the table holds for what has changed since: another frame.
    this.tableChange = wanted === this.wanted ? host.change() : change;
    this.takePlanes(planes);
    host.draw();
    host.baked(size === DRAG_SIZE);
    // The next table is baked of what is wanted once this one is on the screen, not of what was wanted before.
    await this.picture.draw.settled();
    host.settled(this.size);
  });

  /** While frames move, tables and planes follow as fast as they can be made; the frame never waits for them. */
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

  /** Another frame is shown: a table holds for every frame, unless numbers change over the clip. */
  frameMoved(): void {
    if (this.isTimed) this.rebake();
    else this.tableChange = this.host.change();
  }

  takePlanes(planes: Planes): void {
    if (planes === this.planes) return;
    this.planes = planes;
    this.picture.setPlanes(planes);
  }

  /** The frame was measured: what was read before was of another. */
  measured(): void {
    this.stamp += 1;
  }

  /** The picture has lost what it had. */
  setAgain(): void {
    this.picture.setOps(this.ops);
    this.picture.setPlanes(this.planes);
  }

  /** Whether planes of the frame are read. */
  get readsFrame(): boolean {
    return readsFrame(this.ops);
  }

  /** The change, as {@link ShownGradeHost.change} counts them, that the table shows. */
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
