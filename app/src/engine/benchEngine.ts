import { transfer } from 'comlink';
import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { DRAG_SIZE, REST_SIZE, type Table } from '@inkavo/core/program/bake';
import { planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { GRABS, type Grab, type GrabSample } from '@inkavo/core/scopes/solver';
import type { AutomaticBalance } from '@inkavo/core/steps/balance/automatic';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import { api, ApiError, proxyUrl } from '../api/client';
import { shownLists, useBench } from '../state/bench';
import { findStep, joined } from '../state/stepLists';
import { latest } from './latest';
import { PictureRenderer, WHOLE } from './picture';
import { engine } from './workers';
import type { Moment, ScopeRequest } from './worker';

/** Nodes an edge of the first table after a change; the full one follows when nothing moves any more. */
const QUICK_SIZE = 33;
const SETTLE_MS = 220;
/** A frame at rest is fetched when the needle has stood still so long. */
const STILL_MS = 140;
/** Widest frame at rest on the bench, in pixels. */
const MAX_WIDTH = 2048;

interface Grabbed {
  sample: GrabSample;
  stepId: string;
  key: string;
}

/** Joins the bench's state, the workers and the picture: what is drawn, when, and from which frame. */
export class BenchEngine {
  private readonly renderer: PictureRenderer;
  private readonly video = document.createElement('video');
  private readonly facts: MediaFacts;
  private readonly stops: (() => void)[] = [];
  private table: Table | null = null;
  private showing: 'rest' | 'moving' = 'rest';
  private scopeSize = { columns: 1, rows: 1 };
  private fetching: AbortController | undefined;
  private stillTimer: ReturnType<typeof setTimeout> | undefined;
  private settleTimer: ReturnType<typeof setTimeout> | undefined;
  private grabbing: Promise<Grabbed | undefined> | undefined;
  private closed = false;
  /** Counts what makes measurements out of date. */
  private change = 0;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly clipId: string,
  ) {
    this.facts = useBench.getState().opened!.clip.facts;
    this.renderer = new PictureRenderer(canvas);
    this.video.playsInline = true;
    this.video.addEventListener('seeked', () => this.drawMoving());
    const bench = useBench.subscribe;
    this.stops.push(
      bench(shownLists, () => this.rebake()),
      // On lifting, the steps stay what they are, but the table may be a fine one again.
      bench(
        (s) => s.live === null,
        () => this.rebake(),
      ),
      bench(
        (s) => s.frame,
        () => this.frameMoved(),
      ),
      bench(
        (s) => s.playing,
        (playing) => this.playOrStop(playing),
      ),
      bench(
        (s) => s.untouched,
        () => this.draw(),
      ),
      bench(
        (s) => s.scopeView,
        () => this.rescope(false),
      ),
    );
    this.rebake();
    this.frameMoved();
  }

  /** Called when there is a proxy, at the start or once it has been made. */
  useProxy(): void {
    if (this.video.src) return;
    this.video.src = proxyUrl(this.clipId);
    this.video.preload = 'auto';
    this.video.currentTime = (useBench.getState().frame + 0.5) / fps(this.facts);
  }

  /** The picture's width on the screen in device pixels, and the trace's size in pixels. */
  resize(pictureWidth: number, scope: { columns: number; rows: number }): void {
    const width = Math.min(MAX_WIDTH, this.facts.width, Math.max(320, Math.round(pictureWidth)));
    const changed = width !== this.canvas.width;
    const scoped = scope.columns !== this.scopeSize.columns || scope.rows !== this.scopeSize.rows;
    this.scopeSize = scope;
    if (changed) {
      this.canvas.width = width;
      this.canvas.height = Math.max(1, Math.round((this.facts.height * width) / this.facts.width));
      this.draw();
      this.loadRest();
    } else if (scoped) this.rescope(false);
  }

  close(): void {
    this.closed = true;
    this.stops.forEach((stop) => stop());
    this.fetching?.abort();
    clearTimeout(this.stillTimer);
    clearTimeout(this.settleTimer);
    this.video.pause();
    this.video.removeAttribute('src');
    this.video.load();
    this.renderer.dispose();
  }

  private moment(): Moment {
    const state = useBench.getState();
    return {
      steps: joined(shownLists(state)),
      seconds: state.frame / fps(this.facts),
    };
  }

  /** What the scopes have measured is out of date. */
  private changed(): void {
    this.change += 1;
    this.canvas.dataset.measured = '';
  }

  // — the table —

  private rebake(): void {
    this.changed();
    clearTimeout(this.settleTimer);
    const live = useBench.getState().live !== null;
    this.bakeLatest(this.moment(), live ? DRAG_SIZE : QUICK_SIZE);
    if (!live) this.settleTimer = setTimeout(() => this.bakeLatest(this.moment(), REST_SIZE), SETTLE_MS);
  }

  private readonly bakeLatest = latest(async (moment: Moment, size: number) => {
    const table = await engine()
      .tables.bake(moment, size)
      .catch((error: Error) => this.tell(error));
    if (this.closed || table === undefined) return;
    this.table = table;
    this.renderer.setTable(table);
    this.draw();
    this.canvas.dataset.table = String(table?.size ?? 0);
    this.rescope(size === DRAG_SIZE);
    await this.readSpotAgain();
  });

  private tell(error: Error): undefined {
    if (!this.closed) useBench.getState().set({ trouble: error.message });
    return undefined;
  }

  private rescope(rough: boolean): void {
    const { scopeView: view } = useBench.getState();
    this.scopeLatest({ table: this.table, view, rough, ...this.scopeSize }, this.change);
  }

  private readonly scopeLatest = latest(async (request: ScopeRequest, change: number) => {
    const scope = await engine().scopes.scope(request);
    if (this.closed || !scope) return;
    useBench.getState().set({ scope });
    if (change === this.change) this.canvas.dataset.measured = String(request.table?.size ?? 0);
  });

  // — the picture —

  private draw(): void {
    this.renderer.draw(this.showing, WHOLE, !useBench.getState().untouched);
    this.canvas.dataset.showing = this.showing;
  }

  private drawMoving(): void {
    if (this.closed || this.video.readyState < 2) return;
    // A frame at rest that is already there is better than its proxy.
    if (useBench.getState().atRest) return;
    this.renderer.setMoving(this.video, this.facts);
    this.showing = 'moving';
    this.draw();
  }

  private frameMoved(): void {
    const { playing, frame, set } = useBench.getState();
    if (playing) return;
    set({ atRest: false, spot: null });
    this.changed();
    if (this.video.src) this.video.currentTime = (frame + 0.5) / fps(this.facts);
    this.fetching?.abort();
    clearTimeout(this.stillTimer);
    this.stillTimer = setTimeout(() => this.loadRest(), STILL_MS);
  }

  private loadRest(): void {
    const { playing, frame } = useBench.getState();
    if (playing || this.closed || this.canvas.width < 2) return;
    this.fetching?.abort();
    const controller = new AbortController();
    this.fetching = controller;
    void this.fetchRest(frame, controller.signal);
  }

  private async fetchRest(frame: number, signal: AbortSignal): Promise<void> {
    const { set } = useBench.getState();
    try {
      const { buffer, width, height } = await api.frame(this.clipId, frame, this.canvas.width, signal);
      if (signal.aborted || this.closed) return;
      const { range, matrix, chromaSite } = this.facts;
      const format: PlanarFormat = { width, height, depth: 16, chroma: '444', range, matrix, chromaSite };
      this.renderer.setRest(planesOver(buffer, format));
      this.showing = 'rest';
      this.draw();
      set({ atRest: true, trouble: null });
      await engine().scopes.setFrame(transfer(buffer, [buffer]), format);
      this.rescope(false);
    } catch (error) {
      if (signal.aborted || this.closed) return;
      set({ trouble: error instanceof ApiError ? error.message : 'This frame could not be shown.' });
    }
  }

  // — playing —

  private playOrStop(playing: boolean): void {
    if (!playing) {
      this.video.pause();
      this.frameMoved();
      return;
    }
    const { frame, opened, set } = useBench.getState();
    const { inFrame, outFrame } = opened!.clip;
    const from = frame >= outFrame || frame < inFrame ? inFrame : frame;
    set({ atRest: false, spot: null });
    this.fetching?.abort();
    this.video.currentTime = (from + 0.5) / fps(this.facts);
    void this.video
      .play()
      .catch(() => set({ playing: false, trouble: 'The proxy of this clip cannot be played here.' }));
    this.video.requestVideoFrameCallback(this.onVideoFrame);
  }

  private readonly onVideoFrame = (_now: number, { mediaTime }: VideoFrameCallbackMetadata): void => {
    const { playing, opened, set } = useBench.getState();
    if (!playing || this.closed) return;
    const { inFrame, outFrame } = opened!.clip;
    const frame = Math.min(outFrame, Math.floor(mediaTime * fps(this.facts) + 0.25));
    this.drawMoving();
    set({ frame });
    if (frame >= outFrame) this.video.currentTime = (inFrame + 0.5) / fps(this.facts);
    this.video.requestVideoFrameCallback(this.onVideoFrame);
  };

  // — touching the picture and the trace —

  async readSpot(area: Area): Promise<void> {
    useBench.getState().set({ spot: { area, reading: null } });
    await this.readSpotAgain();
  }

  /** The spot goes on reading while the steps change. */
  private async readSpotAgain(): Promise<void> {
    const area = useBench.getState().spot?.area;
    if (!area) return;
    const reading = await engine().scopes.readColour(this.table, area);
    const { spot, set } = useBench.getState();
    if (spot?.area === area) set({ spot: { ...spot, reading } });
  }

  /** "This is neutral": sets the balance step from an area, or says why not. */
  async pickNeutral(area: Area): Promise<void> {
    const { set, lists, inHand, setParams, take } = useBench.getState();
    const steps = joined(lists);
    const held = findStep(lists, inHand)?.step;
    const step = held?.kind === 'balance' ? held : steps.find((s) => s.kind === 'balance');
    if (!step)
      return set({
        spot: { area, reading: null, note: { text: 'There is no balance step. Add one first.', refused: true } },
      });
    const answer = await engine().scopes.pick(this.moment(), step.id, area);
    if (!answer) return;
    if (answer.ok) {
      take(step.id);
      setParams(step.id, answer.params);
    }
    const reading = useBench.getState().spot?.reading ?? null;
    set({ picking: false, spot: { area, reading, note: { text: answer.text, refused: !answer.ok } } });
  }

  /** What each automatic method makes of the frame, for a balance step. */
  automatic(stepId: string): Promise<AutomaticBalance[]> {
    return engine().scopes.automatic(this.moment(), stepId);
  }

  /** Takes hold of a part of the luma trace. Resolves with false when there is no range step that could move it. */
  async grab(part: Grab): Promise<boolean> {
    this.canvas.dataset.held = part;
    this.grabbing = this.takeHold(part);
    return (await this.grabbing) !== undefined;
  }

  private async takeHold(part: Grab): Promise<Grabbed | undefined> {
    const { lists, inHand, take } = useBench.getState();
    const held = findStep(lists, inHand)?.step;
    const step = held?.kind === 'range' && held.on ? held : joined(lists).find((s) => s.kind === 'range' && s.on);
    if (!step) return undefined;
    take(step.id);
    const sample = await engine().scopes.grab(this.table, part);
    if (!sample) return undefined;
    return { sample, stepId: step.id, key: GRABS[part].key };
  }

  /** Moves the grabbed part to an encoded level. */
  readonly dragTo = latest(async (target: number) => {
    const grabbed = await this.grabbing;
    if (!grabbed) return;
    const { value } = await engine().tables.solve(grabbed.sample, this.moment(), grabbed.stepId, grabbed.key, target);
    useBench.getState().setParams(grabbed.stepId, { [grabbed.key]: value }, true);
  });

  /** Lets go: the part is where the finger left it, and that counts as one change. */
  async letGo(): Promise<void> {
    await this.dragTo.settled();
    this.grabbing = undefined;
    useBench.getState().settle();
    this.canvas.dataset.held = '';
  }
}
