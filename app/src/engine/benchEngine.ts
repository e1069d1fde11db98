import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { DRAG_SIZE, REST_SIZE } from '@inkavo/core/program/bake';
import { readsFrame, type BakedOp } from '@inkavo/core/program/baked';
import { changesOverTime } from '@inkavo/core/program/compile';
import type { Planes } from '@inkavo/core/program/planes';
import { ApiError } from '../api/client';
import { shownLists, shownTrim, useBench } from '../state/bench';
import { onReconnect } from '../state/connection';
import { dropMessage, tellTrouble } from '../state/messages';
import { joined } from '@inkavo/core/model/lists';
import { ComparedFrame } from './frames/comparedFrame';
import { alignedView, Detail } from './frames/detail';
import { FrameFetcher } from './frames/frameFetcher';
import { FineTables } from './fineTables';
import { FramePlanes } from './frames/framePlanes';
import { Grabber } from './grabber';
import { hatchedRegion, lookNow, readWithin, watchHatching, withoutCompared } from './picture/regionLook';
import { coalesce } from './coalesce';
import { Measuring, type ScopeSize } from './measuring';
import { Picks } from './picks';
import { Player } from './frames/player';
import { ScreenPicture } from './picture/screenPicture';
import { Spots } from './spots';
import { watchBench } from './watchBench';
import { engine } from './workers';
import type { Moment } from './worker/frame';
import type { ScopeResult } from './worker/scopes';

/** Nodes an edge of the first table after a change; the full one follows when nothing moves any more. */
const QUICK_SIZE = 33;
/** A frame at rest is fetched when the playhead has stood still so long. */
const STILL_MS = 140;
/** Widest frame at rest on the bench, in pixels. */
const MAX_WIDTH = 2048;

/** Joins the bench's state, the workers and the picture: what is drawn, when, and from which frame. */
export class BenchEngine {
  private readonly picture: ScreenPicture;
  private readonly player: Player;
  private readonly detail: Detail;
  private readonly compared: ComparedFrame;
  private readonly facts: MediaFacts;
  private readonly stopWatching: () => void;
  private readonly stopReconnects: () => void;
  private readonly stopHatching: () => void;
  private ops: readonly BakedOp[] = [];
  private planes: Planes = [];
  /** Nodes an edge that were asked for; 0 where the grade does nothing. */
  private size = 0;
  /** Counts the frames that were shown. */
  private shownFrame = 0;
  /** Counts the tables. */
  private stamp = 0;
  /** The change that the table shows, and how many tables have been wanted. */
  private tableChange = 0;
  private wantedTable = 0;
  private showing: 'rest' | 'moving' = 'rest';
  private scopeSize: ScopeSize = { columns: 1, rows: 1, pad: 0 };
  /** Grabs parts of the traces. */
  readonly grabber: Grabber;
  /** What goes on reading: the spot that was touched, and the pins. */
  readonly spots = new Spots(() => this.stamped());
  /** What can be picked in the picture. */
  readonly picks = new Picks(() => this.moment());
  private readonly frames: FrameFetcher;
  private readonly framePlanes: FramePlanes;
  private stillTimer: ReturnType<typeof setTimeout> | undefined;
  private readonly fine = new FineTables((ops) => this.bakeLatest(this.moment(), REST_SIZE, ops));
  private closed = false;
  private readonly measuring = new Measuring();
  /** Counts what makes measurements out of date. */
  private change = 0;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    clipId: string,
  ) {
    this.facts = useBench.getState().opened!.clip.facts;
    this.picture = new ScreenPicture(canvas, {
      drawn: (kind, shown) => this.drawn(kind, shown),
      trouble: (error) => this.tell(error),
      restored: () => this.setAgain(),
    });
    this.frames = new FrameFetcher(clipId, this.facts);
    this.framePlanes = new FramePlanes(clipId, this.facts, this.picture, canvas, () => this.rebake());
    this.detail = new Detail(clipId, this.facts, this.picture, () => this.draw());
    this.compared = new ComparedFrame(clipId, this.facts, this.picture, () => this.draw());
    this.grabber = new Grabber({
      canvas,
      shown: () => this.stamped(),
      moment: () => this.moment(),
    });
    this.player = new Player(clipId, this.facts, () => this.drawMoving());
    this.stopWatching = watchBench({
      steps: () => this.rebake(),
      frame: () => this.frameMoved(),
      noise: () => this.fetchSoon(),
      playing: (playing) => this.playOrStop(playing),
      look: () => this.draw(),
      part: () => this.lookCloser(),
      compared: () => this.bakeCompared(),
      scopes: () => this.rescope(false),
      speed: () => this.player.setSpeed(),
    });
    this.stopHatching = watchHatching(() => this.rebake());
    this.stopReconnects = onReconnect(() => this.fetchAgain());
    this.rebake();
    this.frameMoved();
  }

  /** The server is back: what could not be fetched meanwhile is fetched now. */
  private fetchAgain(): void {
    if (this.closed) return;
    if (this.player.video.error) this.player.useProxy();
    if (!useBench.getState().atRest) this.loadRest();
    this.lookCloser();
  }

  /** Called when there is a proxy, at the start or once it has been made. */
  useProxy(): void {
    this.player.useProxy();
  }

  /** The picture's width on the screen in device pixels, and the trace's size in pixels. */
  resize(pictureWidth: number, scope: ScopeSize): void {
    const width = Math.min(MAX_WIDTH, this.facts.width, Math.max(320, Math.round(pictureWidth)));
    const { size } = this.picture;
    const changed = width !== size.width;
    const scoped = JSON.stringify(scope) !== JSON.stringify(this.scopeSize);
    this.scopeSize = scope;
    if (changed) {
      size.width = width;
      size.height = Math.max(1, Math.round((this.facts.height * width) / this.facts.width));
      this.draw();
      this.loadRest();
    } else if (scoped) this.rescope(false);
  }

  close(): void {
    this.closed = true;
    this.measuring.close();
    this.stopWatching();
    this.stopReconnects();
    this.stopHatching();
    this.frames.stop();
    this.framePlanes.stop();
    this.detail.close();
    this.compared.close();
    clearTimeout(this.stillTimer);
    this.fine.leave();
    this.player.close();
    this.picture.dispose();
  }

  private moment(): Moment {
    const state = useBench.getState();
    const steps = joined(shownLists(state));
    return { steps, seconds: state.frame / fps(this.facts), ...hatchedRegion(steps, state.inHand) };
  }

  /** What the scopes have measured is out of date. */
  private changed(): void {
    this.change += 1;
    this.canvas.dataset.measured = '';
  }

  // — the table —

  private rebake(): void {
    this.changed();
    this.wantedTable += 1;
    const live = useBench.getState().live !== null;
    const moment = this.moment();
    this.bakeLatest(moment, live ? DRAG_SIZE : QUICK_SIZE);
    if (live) this.fine.leave();
    else this.fine.later(moment);
  }

  /** `made`: the ops, where they were baked already. */
  private readonly bakeLatest = coalesce(async (moment: Moment, size: number, made?: BakedOp[]) => {
    const { shownFrame, wantedTable, change } = this;
    const ready = made ?? engine().tables.bake(moment, size);
    const baked = await Promise.all([ready, this.planesAt(moment)]).catch((error: Error) => this.tell(error));
    if (this.closed || baked === undefined) return;
    const [ops] = baked;
    // Another frame may have come meanwhile: its planes are its own.
    const planes = shownFrame === this.shownFrame ? baked[1] : await this.planesAt(moment);
    try {
      this.picture.setOps(ops);
    } catch (error) {
      return this.tell(error as Error);
    }
    this.ops = ops;
    this.size = ops.length ? size : 0;
    this.stamp += 1;
    // While no other one is wanted the table holds for what has changed since: another frame.
    this.tableChange = wantedTable === this.wantedTable ? this.change : change;
    this.takePlanes(planes);
    this.draw();
    this.rescope(size === DRAG_SIZE);
    this.spots.readAgain();
    // The next table is baked of what is wanted once this one is on the screen, not of what was wanted before.
    await this.picture.draw.settled();
    this.canvas.dataset.table = String(this.size);
  });

  private readonly stamped = () => ({
    ops: this.ops,
    planes: this.planes,
    stamp: this.stamp,
    size: this.size,
    ...readWithin(),
  });

  private readonly planesAt = (moment: Moment): Promise<Planes> =>
    this.framePlanes.at(moment, this.showing === 'moving');

  private takePlanes(planes: Planes): void {
    if (planes === this.planes) return;
    this.planes = planes;
    this.picture.setPlanes(planes);
  }

  private tell(error: Error): undefined {
    if (!this.closed) tellTrouble('engine', error.message);
    return undefined;
  }

  private rescope(rough: boolean): void {
    this.measuring.ask(this.stamped(), this.moment(), this.scopeSize, rough, this.tableChange);
  }

  /** Called when the screen shows what was measured. */
  scopeShown(scope: ScopeResult): void {
    const at = this.measuring.last;
    this.canvas.dataset.backend = scope.backend;
    if (at?.scope === scope && at.change === this.change) this.canvas.dataset.measured = String(at.size);
  }

  // — the picture —

  private setAgain(): void {
    if (this.closed) return;
    this.picture.setOps(this.ops);
    this.picture.setPlanes(this.planes);
    this.bakeCompared();
    if (this.showing === 'moving') this.drawMoving();
    this.loadRest();
  }

  private draw(): void {
    const { dataset } = this.canvas;
    dataset.drawing = 'yes';
    const view = alignedView(useBench.getState().view, this.facts, this.picture.size);
    this.picture.draw(this.showing, view, lookNow(this.moment().show));
    void this.picture.draw.settled().then(() => (dataset.drawing = ''));
    this.compared.look();
  }

  /** Called when a picture has been drawn. */
  private drawn(kind: 'rest' | 'moving', shown: 'detail' | 'whole'): void {
    const { dataset } = this.canvas;
    dataset.showing = shown === 'detail' ? 'detail' : kind;
    dataset.drawn = String(Number(dataset.drawn ?? 0) + 1);
  }

  /** Pixels across the picture on the screen, in those of the device. */
  get width(): number {
    return this.picture.size.width;
  }

  /** What is on the screen, as a PNG file. */
  capture(): Promise<Blob> {
    return this.picture.capture();
  }

  /** What the grade is compared with: the file as recorded, or the grade without the step in hand. */
  private readonly bakeCompared = coalesce(async () => {
    const { compareWith, inHand } = useBench.getState();
    const { steps, seconds } = this.moment();
    const without = withoutCompared(steps, inHand, compareWith);
    const moment = { steps: without, seconds };
    const [ops, planes] =
      compareWith === 'step' || compareWith === 'region'
        ? await Promise.all([engine().tables.bake(moment, QUICK_SIZE), this.planesAt(moment)])
        : [[], []];
    if (this.closed) return;
    this.picture.setOps(ops, 'compared');
    this.picture.setPlanes(planes, 'compared');
    this.draw();
  });

  private readonly drawMoving = coalesce(async () => {
    // A frame at rest that is already there is better than its proxy.
    const late = (): boolean => this.closed || useBench.getState().atRest;
    if (late() || !(await this.picture.setMoving(this.player.video, this.facts)) || late()) return;
    this.showing = 'moving';
    this.shownFrame += 1;
    this.followMoving();
    this.draw();
    await this.picture.draw.settled();
  });

  /** While frames move, tables and planes follow as fast as they can be made; the frame never waits for them. */
  private readonly followMoving = coalesce(async () => {
    const moment = this.moment();
    const timed = changesOverTime(moment.steps);
    const spatial = readsFrame(this.ops);
    if (!timed && !spatial) return;
    const [ops, planes] = await Promise.all([
      timed ? engine().tables.bake(moment, DRAG_SIZE) : this.ops,
      this.planesAt(moment),
    ]);
    if (this.closed || this.showing !== 'moving') return;
    if (timed) {
      this.picture.setOps(ops);
      this.ops = ops;
      this.stamp += 1;
    }
    this.takePlanes(planes);
    this.draw();
  });

  private frameMoved(): void {
    const { playing, frame, set } = useBench.getState();
    if (playing) return;
    set({ spot: null });
    this.changed();
    // A table holds for every frame, unless numbers change over the clip.
    if (changesOverTime(this.moment().steps)) this.rebake();
    else this.tableChange = this.change;
    this.player.seek(frame);
    this.fetchSoon();
  }

  /** The frame at rest is another one from now on, and is fetched once nothing moves any more. */
  private fetchSoon(): void {
    const { playing, set } = useBench.getState();
    if (playing) return;
    set({ atRest: false });
    this.frames.stop();
    this.framePlanes.stop();
    clearTimeout(this.stillTimer);
    this.stillTimer = setTimeout(() => this.loadRest(), STILL_MS);
  }

  private lookCloser(): void {
    const { view, frame, atRest } = useBench.getState();
    this.detail.look(view, frame, atRest);
    this.compared.look();
  }

  private loadRest(): void {
    clearTimeout(this.stillTimer);
    const { playing, frame } = useBench.getState();
    if (!playing && !this.closed && this.picture.size.width > 1) void this.fetchRest(frame);
  }

  private async fetchRest(frame: number): Promise<void> {
    const { set } = useBench.getState();
    try {
      const spatial = readsFrame(this.ops);
      const [found, cells] = await Promise.all([
        this.frames.fetch(frame, this.picture.size.width),
        spatial ? this.framePlanes.cells(frame) : undefined,
      ]);
      if (!found) return;
      const { buffer, format, wanted } = found;
      const copy = buffer.slice(0);
      const show = (planes?: Planes): void => {
        this.picture.setRest(buffer, format);
        this.compared.forget();
        this.showing = 'rest';
        this.shownFrame += 1;
        this.lookCloser();
        if (planes) this.takePlanes(planes);
        this.draw();
        set({ atRest: true });
        dropMessage('frame');
      };
      // A map of another frame would show for a moment: with one, the frame is measured before it is shown.
      if (!spatial) show();
      const ends = await this.framePlanes.measure(copy, format, cells);
      if (spatial) {
        const planes = await engine().scopes.planes(this.moment());
        if (!wanted()) return;
        show(planes);
        this.bakeCompared();
      }
      // It got its first plane meanwhile.
      if (!spatial && readsFrame(this.ops)) this.rebake();
      this.picture.setEnds(ends);
      if (useBench.getState().overlay === 'clipping') this.draw();
      this.stamp += 1;
      this.rescope(false);
      this.spots.readAgain();
    } catch (error) {
      if (!this.closed)
        tellTrouble('frame', error instanceof ApiError ? error.message : 'This frame could not be shown.');
    }
  }

  // — playing —

  private playOrStop(playing: boolean): void {
    if (!playing) {
      this.player.video.pause();
      this.frameMoved();
      return;
    }
    const { frame, set } = useBench.getState();
    const { inFrame, outFrame } = shownTrim(useBench.getState());
    const from = frame >= outFrame || frame < inFrame ? inFrame : frame;
    set({ atRest: false, spot: null });
    this.frames.stop();
    this.player.play(from);
  }
}
