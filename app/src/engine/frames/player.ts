import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import type { ProxyPart } from '@inkavo/core/model/proxyParts';
import { api, proxyPartUrl, proxyUrl } from '../../api/client';
import { shownTrim, useBench } from '../../state/bench';
import { tell, tellTrouble } from '../../state/messages';
import { measureShownCodes } from './shownCodes';

/** Time-out for buffering before it is reported: looping causes short pauses. */
const BUFFERING_MS = 300;
/** The video can continue, or should no longer play. */
const GOES_ON = ['playing', 'timeupdate', 'pause', 'error'] as const;

/** Range of playback rates in Blink; others throw a NotSupportedError (HTML Standard, playbackRate). */
const SPEEDS = { least: 1 / 16, most: 16 };

/** After a seek, a frame from before it may still appear within this time. By judgement: some frames at any rate. */
const STALE_MS = 500;

/**
 * Seconds of an unfinished proxy that must be available ahead to start playing; doubled at each stall. By judgement.
 */
const AHEAD = { first: 1, most: 8 };

const MADE_FROM_HERE = 'The proxy is made from here on first: it plays as soon as there is enough.';

/** A file with frames of the clip, from one on: the complete proxy, or a part of an unfinished one. */
type Stretch = ProxyPart & { url: string };

/** Plays and seeks a clip's proxy, or its available parts, and moves the playhead. */
export class Player {
  readonly video = document.createElement('video');
  private closed = false;
  private ahead = false;
  private whole = false;
  private parts: readonly ProxyPart[] = [];
  /** The file loaded in the video. */
  private loaded: Stretch | undefined;
  /** The following part, by its source; `url`: once fetched. */
  private next: { from: string; url?: string } | undefined;
  /** Playback is requested and starts as soon as enough is available. */
  private awaiting = false;
  /** Target frame of a seek, until it or a later one is shown: a newly loaded file shows its first frame before. */
  private sought: { frame: number } | undefined;
  /** Number of stalls since playback was requested. */
  private stalls = 0;
  /** Handle of the pending video frame callback. */
  private asked: number | undefined;
  private waiting: ReturnType<typeof setTimeout> | undefined;

  /** `shown` is called when the video shows another frame. */
  constructor(
    private readonly clipId: string,
    private readonly facts: MediaFacts,
    private readonly shown: () => void,
  ) {
    this.video.playsInline = true;
    this.video.addEventListener('seeked', () => this.seeked());
    this.video.addEventListener('ended', () => this.ended());
    this.video.addEventListener('waiting', () => this.mayBuffer());
    for (const event of GOES_ON) this.video.addEventListener(event, () => this.goesOn());
  }

  private seeked(): void {
    const { sought } = this;
    setTimeout(() => this.sought === sought && (this.sought = undefined), STALE_MS);
    this.shown();
  }
  private mayBuffer(): void {
    clearTimeout(this.waiting);
    this.waiting = setTimeout(() => useBench.getState().set({ buffering: 'loading' }), BUFFERING_MS);
  }
  private goesOn(): void {
    if (this.awaiting) return;
    clearTimeout(this.waiting);
    if (useBench.getState().buffering) useBench.getState().set({ buffering: null });
  }

  /** Called when the proxy is available, at the start or once it has been made. */
  useProxy(): void {
    // A failed fetch is repeated.
    if (this.whole && !this.video.error) return;
    this.whole = true;
    this.loaded = undefined;
    this.forgetNext();
    this.begin();
  }

  /** Called when more parts of an unfinished proxy can be played. */
  useParts(parts: readonly ProxyPart[]): void {
    this.parts = parts;
    if (this.video.error) this.loaded = undefined;
    if (this.whole || (this.loaded && !this.awaiting)) return;
    const { frame } = useBench.getState();
    if (this.awaiting ? this.isEnough(frame) : this.holding(frame)) this.begin();
  }

  /** Whether enough is available from a frame on to continue: more after each stall. */
  private isEnough(frame: number): boolean {
    const { outFrame } = shownTrim(useBench.getState());
    let end = frame;
    for (let part = this.holding(end); part && end <= outFrame; part = this.holding(end)) end = part.first + part.count;
    const seconds = Math.min(AHEAD.most, AHEAD.first * 2 ** (this.stalls - 1));
    return end > frame && (end > outFrame || end - frame >= seconds * fps(this.facts));
  }

  private begin(): void {
    measureShownCodes(this.shown);
    const { frame, playing } = useBench.getState();
    if (playing) this.play(frame, true);
    else this.seek(frame);
  }

  /** The file that contains a frame. */
  private holding(frame: number): Stretch | undefined {
    const { clipId, facts, parts } = this;
    if (this.whole) return { first: 0, count: facts.frames, url: proxyUrl(clipId, facts.probed) };
    const part = parts.find(({ first, count }) => frame >= first && frame < first + count);
    return part && { ...part, url: proxyPartUrl(clipId, facts.probed, part.first) };
  }

  /** The server is reachable again: a failed video, or one stalled on a dead connection, is reloaded from here. */
  fetchAgain(): void {
    const { video } = this;
    const { frame, playing } = useBench.getState();
    if (this.awaiting) this.play(frame, true);
    if (!this.loaded || (!video.error && video.networkState !== HTMLMediaElement.NETWORK_LOADING)) return;
    video.load();
    if (playing) this.play(frame);
    else this.seek(frame);
  }

  /** The still frame has arrived: the proxy may be buffered now. Before, they would share a slow network. */
  readAhead(): void {
    this.ahead = true;
    if (this.loaded) this.video.preload = 'auto';
  }

  /** Loads a file into the video and releases the previous prefetched one. */
  private load(url: string | null): void {
    const before = this.video.src;
    if (url === null) this.video.removeAttribute('src');
    else this.video.src = url;
    if (before.startsWith('blob:')) URL.revokeObjectURL(before);
  }

  /** Prefetches the next part, once the current one has arrived. */
  private fetchNext(): void {
    const { loaded, video } = this;
    const next = this.whole || !loaded ? undefined : this.holding(loaded.first + loaded.count);
    const { length } = video.buffered;
    const isHere = length > 0 && video.buffered.end(length - 1) > video.duration - 0.5;
    if (!next || !isHere || next.url === this.next?.from) return;
    this.forgetNext();
    const own: { from: string; url?: string } = (this.next = { from: next.url });
    void fetch(next.url)
      .then((answer) => (answer.ok ? answer.blob() : undefined))
      .then((part) => {
        if (part && this.next === own) own.url = URL.createObjectURL(part);
      })
      // Then it is fetched when needed.
      .catch(() => undefined);
  }
  private forgetNext(): void {
    const url = this.next?.url;
    if (url && url !== this.video.src) URL.revokeObjectURL(url);
    this.next = undefined;
  }

  /**
   * Seeks to the middle of a frame, so that rounding cannot select its neighbour. Returns whether there is anything to
   * show.
   */
  seek(frame: number): boolean {
    const stretch = this.holding(frame);
    if (!stretch) return false;
    if (stretch.url !== this.loaded?.url) {
      this.loaded = stretch;
      this.load((this.next?.from === stretch.url && this.next.url) || stretch.url);
      this.video.preload = this.ahead ? 'auto' : 'metadata';
    }
    this.sought = { frame };
    this.video.currentTime = (frame - stretch.first + 0.5) / fps(this.facts);
    return true;
  }

  /**
   * Plays from a frame to out at the chosen speed; looping, continues at in. `goesOn`: not a new request by the user.
   */
  play(frame: number, goesOn = false): void {
    measureShownCodes(this.shown, true);
    if (!goesOn) this.stalls = 0;
    this.awaiting = !this.seek(frame);
    if (this.awaiting) {
      this.stalls += 1;
      this.video.pause();
      const { frame: shown, buffering, set } = useBench.getState();
      if (shown !== frame || buffering !== 'making') set({ frame, buffering: 'making' });
      void api.wantProxy(this.clipId, frame, true).catch(() => undefined);
      if (!goesOn) tell({ key: 'player', text: MADE_FROM_HERE, fades: true });
      return;
    }
    this.setSpeed();
    void this.video.play().catch((error: DOMException) => {
      // Paused before it began, or another part was loaded.
      if (error.name === 'AbortError') return;
      useBench.getState().set({ playing: false });
      tellTrouble('player', 'The proxy of this clip cannot be played here.');
    });
    this.awaitFrame();
  }

  pause(): void {
    this.awaiting = false;
    this.video.pause();
    this.goesOn();
  }

  /** Browsers without video frame callbacks are polled at each animation frame. */
  private awaitFrame(): void {
    const { video } = this;
    if ('requestVideoFrameCallback' in video) {
      if (this.asked !== undefined) video.cancelVideoFrameCallback(this.asked);
      this.asked = video.requestVideoFrameCallback(this.onFrame);
    } else {
      const other = video as HTMLVideoElement;
      if (this.asked !== undefined) cancelAnimationFrame(this.asked);
      this.asked = requestAnimationFrame((now) => this.onFrame(now, { mediaTime: other.currentTime }));
    }
  }

  /** Applies the chosen speed of the delivered clip, preserving pitch. */
  setSpeed(): void {
    const { play, opened } = useBench.getState();
    const speed = play.speed * (opened?.clip.retime?.factor ?? 1);
    // Loading resets to the default rate.
    this.video.defaultPlaybackRate = Math.min(SPEEDS.most, Math.max(SPEEDS.least, speed));
    this.video.playbackRate = this.video.defaultPlaybackRate;
  }

  private readonly onFrame = (_now: number, { mediaTime }: Pick<VideoFrameCallbackMetadata, 'mediaTime'>): void => {
    const { playing, set } = useBench.getState();
    if (!playing || this.closed || this.awaiting || !this.loaded) return;
    const { outFrame } = shownTrim(useBench.getState());
    const frame = Math.min(outFrame, this.loaded.first + Math.floor(mediaTime * fps(this.facts) + 0.25));
    if (this.sought && frame < this.sought.frame) return this.awaitFrame();
    this.sought = undefined;
    this.shown();
    set({ frame });
    this.fetchNext();
    if (frame >= outFrame) this.reachedOut();
    else this.awaitFrame();
  };

  private reachedOut(): void {
    const { play, set } = useBench.getState();
    if (play.loop) this.play(shownTrim(useBench.getState()).inFrame, true);
    else set({ playing: false });
  }

  /** The current file has ended: continue with the next part. */
  private ended(): void {
    // A loop may have gone back meanwhile.
    if (!useBench.getState().playing || this.closed || !this.loaded || !this.video.ended) return;
    const next = this.loaded.first + this.loaded.count;
    if (next > shownTrim(useBench.getState()).outFrame) this.reachedOut();
    else this.play(next, true);
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.waiting);
    this.video.pause();
    this.forgetNext();
    this.load(null);
    this.video.load();
  }
}
