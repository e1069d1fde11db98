import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import type { ProxyPart } from '@inkavo/core/model/proxyParts';
import { api, proxyPartUrl, proxyUrl } from '../../api/client';
import { shownTrim, useBench } from '../../state/bench';
import { tell, tellTrouble } from '../../state/messages';
import { measureShownCodes } from './shownCodes';

/** So long a video may wait for more to arrive before it is told: at each turn of a loop it does so for a moment. */
const BUFFERING_MS = 300;
/** Of a video that has something to show again, or is not to play any more. */
const GOES_ON = ['playing', 'timeupdate', 'pause', 'error'] as const;

/** Speeds that Blink takes; setting another one throws a NotSupportedError (HTML Standard, playbackRate). */
const SPEEDS = { least: 1 / 16, most: 16 };

/** After a seek a frame from before it may come once more, within this time. Chosen by judgement: some frames at any rate. */
const STALE_MS = 500;

/** Seconds that have to lie ahead, of a proxy that is being made, for it to play: they double with each stop. Chosen by judgement. */
const AHEAD = { first: 1, most: 8 };

const MADE_FROM_HERE = 'The proxy is made from here on first: it plays as soon as there is enough.';

/** A file that holds frames of the clip, from one on: the whole proxy, or a part of one that is being made. */
type Stretch = ProxyPart & { url: string };

/** Plays and seeks a clip's proxy, or what there is of it, and moves the playhead with it. */
export class Player {
  readonly video = document.createElement('video');
  private closed = false;
  private ahead = false;
  private whole = false;
  private parts: readonly ProxyPart[] = [];
  /** What the video holds. */
  private loaded: Stretch | undefined;
  /** The part after that, by where it comes from; `url`: once it has been fetched. */
  private next: { from: string; url?: string } | undefined;
  /** It is to play from the playhead, as soon as there is enough. */
  private awaiting = false;
  /** The frame that was sought, until it or a later one has come: a file that was loaded just now shows its first one before. */
  private sought: { frame: number } | undefined;
  /** How often it stood still since somebody had it play. */
  private stalls = 0;
  /** The browser's number for the frame that is asked for. */
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

  /** Called when there is a proxy, at the start or once it has been made. */
  useProxy(): void {
    // One that could not be fetched is fetched again.
    if (this.whole && !this.video.error) return;
    this.whole = true;
    this.loaded = undefined;
    this.forgetNext();
    this.begin();
  }

  /** Called when parts of a proxy have been made that is not whole yet. */
  useParts(parts: readonly ProxyPart[]): void {
    this.parts = parts;
    if (this.video.error) this.loaded = undefined;
    if (this.whole || (this.loaded && !this.awaiting)) return;
    const { frame } = useBench.getState();
    if (this.awaiting ? this.isEnough(frame) : this.holding(frame)) this.begin();
  }

  /** Whether so much is made from a frame on that it may play again: more each time it stood still. */
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

  /** What holds a frame. */
  private holding(frame: number): Stretch | undefined {
    const { clipId, facts, parts } = this;
    if (this.whole) return { first: 0, count: facts.frames, url: proxyUrl(clipId, facts.probed) };
    const part = parts.find(({ first, count }) => frame >= first && frame < first + count);
    return part && { ...part, url: proxyPartUrl(clipId, facts.probed, part.first) };
  }

  /** The server is back: a video that failed, or waits for more over a connection that is gone, is fetched again from here. */
  fetchAgain(): void {
    const { video } = this;
    const { frame, playing } = useBench.getState();
    if (this.awaiting) this.play(frame, true);
    if (!this.loaded || (!video.error && video.networkState !== HTMLMediaElement.NETWORK_LOADING)) return;
    video.load();
    if (playing) this.play(frame);
    else this.seek(frame);
  }

  /** The frame at rest is there: the proxy is read ahead. Until then a slow network would be shared with it. */
  readAhead(): void {
    this.ahead = true;
    if (this.loaded) this.video.preload = 'auto';
  }

  /** Has the video show a file; one that had been fetched ahead is let go of. */
  private load(url: string | null): void {
    const before = this.video.src;
    if (url === null) this.video.removeAttribute('src');
    else this.video.src = url;
    if (before.startsWith('blob:')) URL.revokeObjectURL(before);
  }

  /** Once a part that plays has arrived: fetches the one that follows, where it is made. */
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
      // Then it is fetched when it is its turn.
      .catch(() => undefined);
  }
  private forgetNext(): void {
    const url = this.next?.url;
    if (url && url !== this.video.src) URL.revokeObjectURL(url);
    this.next = undefined;
  }

  /** Goes to a frame's middle, where rounding cannot lead to its neighbour. Whether there is anything to be shown of it. */
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

  /** Plays from a frame to out, at the chosen speed; in a loop, on from in. `goesOn`: nobody has just asked for it. */
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
      // Paused again before it began, or another part was loaded.
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

  /** Browsers that do not tell of frames are asked where the video is, each time they draw. */
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

  /** Takes the chosen speed, of the clip as it is delivered. Sound keeps its pitch. */
  setSpeed(): void {
    const { play, opened } = useBench.getState();
    const speed = play.speed * (opened?.clip.retime?.factor ?? 1);
    // What is loaded next begins with the default.
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

  /** The file that is loaded has come to its end: what follows is played, where the clip goes on. */
  private ended(): void {
    // A turn of a loop may have gone back meanwhile.
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
