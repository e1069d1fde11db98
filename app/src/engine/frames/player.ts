import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { proxyUrl } from '../../api/client';
import { shownTrim, useBench } from '../../state/bench';
import { tellTrouble } from '../../state/messages';
import { measureShownCodes } from './shownCodes';

/** So long a video may wait for more to arrive before it is told: at each turn of a loop it does so for a moment. */
const BUFFERING_MS = 300;
/** Of a video that has something to show again, or is not to play any more. */
const GOES_ON = ['playing', 'timeupdate', 'pause', 'error'] as const;

/** Speeds that Blink takes; setting another one throws a NotSupportedError (HTML Standard, playbackRate). */
const SPEEDS = { least: 1 / 16, most: 16 };

/** Plays and seeks a clip's proxy, and moves the playhead with it. */
export class Player {
  readonly video = document.createElement('video');
  private closed = false;
  private ahead = false;
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
    this.video.addEventListener('seeked', shown);
    this.video.addEventListener('waiting', () => {
      clearTimeout(this.waiting);
      this.waiting = setTimeout(() => useBench.getState().set({ buffering: true }), BUFFERING_MS);
    });
    for (const event of GOES_ON) this.video.addEventListener(event, () => this.goesOn());
  }

  private goesOn(): void {
    clearTimeout(this.waiting);
    if (useBench.getState().buffering) useBench.getState().set({ buffering: false });
  }

  /** Called when there is a proxy, at the start or once it has been made. */
  useProxy(): void {
    // One that could not be fetched is fetched again.
    if (this.video.src && !this.video.error) return;
    this.video.src = proxyUrl(this.clipId, this.facts.probed);
    this.video.preload = this.ahead ? 'auto' : 'metadata';
    this.seek(useBench.getState().frame);
    measureShownCodes(this.shown);
  }

  /** The server is back: a video that failed, or waits for more over a connection that is gone, is fetched again from here. */
  fetchAgain(): void {
    const { video } = this;
    if (!video.src || (!video.error && video.networkState !== HTMLMediaElement.NETWORK_LOADING)) return;
    const { frame, playing } = useBench.getState();
    video.load();
    if (playing) this.play(frame);
    else this.seek(frame);
  }

  /** The frame at rest is there: the proxy is read ahead. Until then a slow network would be shared with it. */
  readAhead(): void {
    this.ahead = true;
    if (this.video.src) this.video.preload = 'auto';
  }

  /** Goes to a frame's middle, where rounding cannot lead to its neighbour. */
  seek(frame: number): void {
    if (this.video.src) this.video.currentTime = (frame + 0.5) / fps(this.facts);
  }

  /** Plays from a frame to out, at the chosen speed; in a loop, on from in. */
  play(frame: number): void {
    measureShownCodes(this.shown);
    this.seek(frame);
    this.setSpeed();
    void this.video.play().catch((error: DOMException) => {
      // Paused again before it began.
      if (error.name === 'AbortError') return;
      useBench.getState().set({ playing: false });
      tellTrouble('player', 'The proxy of this clip cannot be played here.');
    });
    this.awaitFrame();
  }

  /** Browsers that do not tell of frames are asked where the video is, each time they draw. */
  private awaitFrame(): void {
    const { video } = this;
    if ('requestVideoFrameCallback' in video) {
      if (this.asked !== undefined) video.cancelVideoFrameCallback(this.asked);
      this.asked = video.requestVideoFrameCallback(this.onFrame);
    } else requestAnimationFrame((now) => this.onFrame(now, { mediaTime: (video as HTMLVideoElement).currentTime }));
  }

  /** Takes the chosen speed, of the clip as it is delivered. Sound keeps its pitch. */
  setSpeed(): void {
    const { play, opened } = useBench.getState();
    const speed = play.speed * (opened?.clip.retime?.factor ?? 1);
    this.video.playbackRate = Math.min(SPEEDS.most, Math.max(SPEEDS.least, speed));
  }

  private readonly onFrame = (_now: number, { mediaTime }: Pick<VideoFrameCallbackMetadata, 'mediaTime'>): void => {
    const { playing, play, set } = useBench.getState();
    if (!playing || this.closed) return;
    const { inFrame, outFrame } = shownTrim(useBench.getState());
    const frame = Math.min(outFrame, Math.floor(mediaTime * fps(this.facts) + 0.25));
    this.shown();
    set({ frame, ...(frame >= outFrame && !play.loop ? { playing: false } : {}) });
    if (frame >= outFrame && !play.loop) return;
    if (frame >= outFrame) this.seek(inFrame);
    this.awaitFrame();
  };

  close(): void {
    this.closed = true;
    clearTimeout(this.waiting);
    this.video.pause();
    this.video.removeAttribute('src');
    this.video.load();
  }
}
