import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import type { ProxyPart } from '@inkavo/core/model/proxyParts';
import type { Planes } from '@inkavo/core/program/planes';
import { stepsAt } from '@inkavo/core/program/stepsAt';
import { shownLists, shownTrim, useBench } from '../state/bench';
import { onReconnect } from '../state/connection';
import { tellTrouble } from '../state/messages';
import { joined } from '@inkavo/core/model/lists';
import { ComparedFrame } from './frames/comparedFrame';
import { alignedView, Detail } from './frames/detail';
import { FramePlanes } from './frames/framePlanes';
import { Grabber } from './grabber';
import { hatchedRegion, lookNow, watchHatching, withoutCompared } from './picture/regionLook';
import { coalesce } from './coalesce';
import { Measuring, type ScopeSize } from './measuring';
import { Picks } from './picks';
import { Player } from './frames/player';
import { RestFrame } from './frames/restFrame';
import { codesMeasured } from './frames/shownCodes';
import { ScreenPicture } from './picture/screenPicture';
import { QUICK_SIZE, ShownGrade } from './shownGrade';
import { Spots } from './spots';
import { watchBench } from './watchBench';
import { engine } from './workers';
import type { Moment } from './worker/frame';
import type { ScopeResult } from './worker/scopes';

/** Maximum width in pixels of a still frame on the bench. */
const MAX_WIDTH = 2048;

/** Connects the bench's state, the workers and the picture: decides what is drawn, when, and from which frame. */
export class BenchEngine {
  private readonly picture: ScreenPicture;
  private readonly player: Player;
  private readonly detail: Detail;
  private readonly compared: ComparedFrame;
  private readonly facts: MediaFacts;
  private readonly stopWatching: () => void;
  private readonly stopReconnects: () => void;
  private readonly stopHatching: () => void;
  /** Number of frames shown so far. */
  private shownFrame = 0;
  private showing: 'rest' | 'moving' = 'rest';
  private scopeSize: ScopeSize = { columns: 1, rows: 1, pad: 0 };
  /** Grabs parts of the traces. */
  readonly grabber: Grabber;
  /** Continuous readings: the touched spot and the pins. */
  readonly spots = new Spots(() => this.grade.stamped());
  /** Picks in the picture. */
  readonly picks = new Picks(() => this.moment());
  private readonly rest: RestFrame;
  private readonly grade: ShownGrade;
  private readonly framePlanes: FramePlanes;
  private closed = false;
  private readonly measuring = new Measuring();
  /** Incremented when measurements become outdated. */
  private change = 0;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    clipId: string,
  ) {
    this.facts = useBench.getState().opened!.clip.facts;
    // The worker still holds a frame of the previous clip.
    void engine().scopes.forgetFrame();
    this.picture = new ScreenPicture(canvas, {
      drawn: (kind, shown) => this.drawn(kind, shown),
      trouble: (error) => {
        if (!this.closed) tellTrouble('engine', error.message);
      },
      restored: () => this.setAgain(),
    });
    this.grade = new ShownGrade(this.picture, {
      moment: () => this.moment(),
      planesAt: (moment) => this.planesAt(moment),
      shownFrame: () => this.shownFrame,
      isMoving: () => this.showing === 'moving',
      change: () => this.change,
      draw: () => this.draw(),
      baked: (rough) => this.readAgain(rough),
      settled: (size) => (this.canvas.dataset.table = String(size)),
    });
    this.framePlanes = new FramePlanes(clipId, this.facts, this.picture, canvas, () => this.rebake());
    this.rest = new RestFrame(clipId, this.facts, this.picture, this.framePlanes, {
      moment: () => this.moment(),
      readsFrame: () => this.grade.readsFrame,
      show: (planes) => this.showRest(planes),
      shownWithPlanes: () => this.bakeCompared(),
      firstPlane: () => this.rebake(),
      measured: () => this.restMeasured(),
      arrived: () => this.player.readAhead(),
    });
    this.detail = new Detail(clipId, this.facts, this.picture, () => this.draw());
    this.compared = new ComparedFrame(clipId, this.facts, this.picture, () => this.draw());
    this.grabber = new Grabber({
      canvas,
      shown: () => this.grade.stamped(),
      moment: () => this.moment(),
    });
    this.player = new Player(clipId, this.facts, () => this.drawMoving());
    this.stopWatching = watchBench({
      steps: () => this.rebake(),
      frame: () => this.frameMoved(),
      noise: () => this.rest.soon(),
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

  /** The server is reachable again: fetch what failed. */
  private fetchAgain(): void {
    if (this.closed) return;
    this.player.fetchAgain();
    if (!useBench.getState().atRest) this.rest.load();
    this.lookCloser();
  }

  /** Called when the proxy is available, at the start or once it has been made. */
  useProxy(): void {
    this.player.useProxy();
  }

  /** Called when more parts of an unfinished proxy can be played. */
  useParts(parts: readonly ProxyPart[]): void {
    this.player.useParts(parts);
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
      this.rest.load();
    } else if (scoped) this.rescope(false);
  }

  close(): void {
    this.closed = true;
    this.measuring.close();
    this.stopWatching();
    this.stopReconnects();
    this.stopHatching();
    this.rest.close();
    this.framePlanes.stop();
    this.detail.close();
    this.compared.close();
    this.grade.close();
    this.player.close();
    this.picture.dispose();
  }

  private moment(): Moment {
    const state = useBench.getState();
    const seconds = state.frame / fps(this.facts);
    const steps = stepsAt(joined(shownLists(state)), seconds);
    return { steps, seconds, ...hatchedRegion(steps, state.inHand) };
  }

  /** Scope results are outdated. */
  private changed(): void {
    this.change += 1;
    this.canvas.dataset.measured = '';
  }

  // — the grade —

  private rebake(): void {
    this.changed();
    this.grade.rebake();
  }

  private readonly planesAt = (moment: Moment): Promise<Planes> =>
    this.framePlanes.at(moment, this.showing === 'moving');

  private readAgain(rough: boolean): void {
    this.rescope(rough);
    this.spots.readAgain();
  }

  private rescope(rough: boolean): void {
    this.measuring.ask(this.grade.stamped(), this.moment(), this.scopeSize, rough, this.grade.shownChange);
  }

  /** Called when the screen shows new measurements. */
  scopeShown(scope: ScopeResult): void {
    const at = this.measuring.last;
    this.canvas.dataset.backend = scope.backend;
    if (at?.scope === scope && at.change === this.change) this.canvas.dataset.measured = String(at.size);
  }

  // — the picture —

  private setAgain(): void {
    if (this.closed) return;
    this.grade.setAgain();
    this.bakeCompared();
    if (this.showing === 'moving') this.drawMoving();
    this.rest.load();
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

  /** Width of the picture on the screen in device pixels. */
  get width(): number {
    return this.picture.size.width;
  }

  /** The picture on the screen as a PNG file. */
  capture(): Promise<Blob> {
    return this.picture.capture();
  }

  /** The reference of the comparison: the file as recorded, or the grade without the step in hand. */
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
    // An already fetched still frame is better than its proxy.
    const late = (): boolean => this.closed || useBench.getState().atRest;
    await codesMeasured();
    if (late() || !(await this.picture.setMoving(this.player.video, this.facts)) || late()) return;
    this.showing = 'moving';
    this.shownFrame += 1;
    this.grade.follow();
    this.draw();
    await this.picture.draw.settled();
  });

  private frameMoved(): void {
    const { playing, frame, set } = useBench.getState();
    if (playing) return;
    set({ spot: null });
    this.changed();
    this.grade.frameMoved();
    this.player.seek(frame);
    this.rest.soon();
  }

  private showRest(planes: Planes | undefined): void {
    this.compared.forget();
    this.showing = 'rest';
    this.shownFrame += 1;
    this.lookCloser();
    if (planes) this.grade.takePlanes(planes);
    this.draw();
  }

  private restMeasured(): void {
    if (useBench.getState().overlay === 'clipping') this.draw();
    this.grade.measured();
    this.readAgain(false);
  }

  private lookCloser(): void {
    const { view, frame, atRest } = useBench.getState();
    this.detail.look(view, frame, atRest);
    this.compared.look();
  }

  // — playing —

  private playOrStop(playing: boolean): void {
    if (!playing) {
      this.player.pause();
      this.frameMoved();
      return;
    }
    const { frame, set } = useBench.getState();
    const { inFrame, outFrame } = shownTrim(useBench.getState());
    const from = frame >= outFrame || frame < inFrame ? inFrame : frame;
    set({ atRest: false, spot: null });
    this.rest.stop();
    this.player.play(from);
  }
}
