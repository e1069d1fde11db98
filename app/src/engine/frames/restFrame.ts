import type { MediaFacts } from '@inkavo/core/model/facts';
import type { Planes } from '@inkavo/core/program/planes';
import { ApiError, FROM_AFAR } from '../../api/client';
import { useBench } from '../../state/bench';
import { dropMessage, tellTrouble } from '../../state/messages';
import type { ScreenPicture } from '../picture/screenPicture';
import type { CellsOfFile, Moment } from '../worker/frame';
import { engine } from '../workers';
import { FrameFetcher, type Fetched } from './frameFetcher';
import { frameTakesLong } from './frameSpeed';
import type { FramePlanes } from './framePlanes';

/** Idle time of the playhead before a still frame is fetched. */
const STILL_MS = 140;
/** Width in pixels of the preview for slow frames: about a tenth of the bytes. */
const SMALL_WIDTH = 480;

/** Interface to the bench for still frames. */
interface RestFrameHost {
  moment(): Moment;
  /** Whether the shown table reads planes of the frame. */
  readsFrame(): boolean;
  /** The picture has received the frame: draw it, with its planes if it was measured before. */
  show(planes?: Planes): void;
  /** It was shown with its own planes. */
  shownWithPlanes(): void;
  /** The grade got its first plane while the frame was being fetched. */
  firstPlane(): void;
  /** It has been measured. */
  measured(): void;
  /** The full frame has arrived, replacing the preview. */
  arrived(): void;
}

/** The still frame at the playhead: fetched from the original, measured, and shown instead of the proxy's. */
export class RestFrame {
  private readonly frames: FrameFetcher;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private closed = false;

  constructor(
    clipId: string,
    facts: MediaFacts,
    private readonly picture: ScreenPicture,
    private readonly framePlanes: FramePlanes,
    private readonly host: RestFrameHost,
  ) {
    this.frames = new FrameFetcher(clipId, facts);
  }

  /** Requests another frame, once nothing moves any more. */
  soon(): void {
    const { playing, set } = useBench.getState();
    if (playing) return;
    set({ atRest: false });
    this.stop();
    this.framePlanes.stop();
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.load(), STILL_MS);
  }

  /** Fetches the frame now, unless the clip plays. */
  load(): void {
    clearTimeout(this.timer);
    const { playing, frame } = useBench.getState();
    if (!playing && !this.closed && this.picture.size.width > 1) void this.fetch(frame);
  }

  /** Cancels the current fetch. */
  stop(): void {
    this.frames.stop();
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
    this.stop();
  }

  private async fetch(frame: number): Promise<void> {
    const { picture, framePlanes, host } = this;
    const { width, height } = picture.size;
    try {
      // On a slow network a small preview is shown and measured long before the full frame.
      if (FROM_AFAR && width > 1.5 * SMALL_WIDTH && frameTakesLong(width * height)) {
        const small = await this.frames.fetch(frame, SMALL_WIDTH);
        if (!small) return;
        await this.take(small, host.readsFrame(), undefined);
        if (!small.wanted()) return;
      }
      const spatial = host.readsFrame();
      const [found, cells] = await Promise.all([
        this.frames.fetch(frame, width),
        spatial ? framePlanes.cells(frame) : undefined,
      ]);
      if (found)
        await this.take(found, spatial, cells, () => {
          useBench.getState().set({ atRest: true });
          dropMessage('frame');
          host.arrived();
        });
    } catch (error) {
      if (!this.closed)
        tellTrouble('frame', error instanceof ApiError ? error.message : 'This frame could not be shown.');
    }
  }

  /** Shows a received frame and has it measured. `spatial`: its grade reads planes. */
  private async take(
    { buffer, format, wanted }: Fetched,
    spatial: boolean,
    cells: CellsOfFile | undefined,
    shown?: () => void,
  ): Promise<void> {
    const { picture, framePlanes, host } = this;
    const copy = buffer.slice(0);
    const show = (planes?: Planes): void => {
      picture.setRest(buffer, format);
      host.show(planes);
      shown?.();
    };
    // Avoids showing another frame's map for a moment: with spatial steps the frame is measured first.
    if (!spatial) show();
    const ends = await framePlanes.measure(copy, format, cells);
    if (spatial) {
      const planes = await engine().scopes.planes(host.moment());
      if (!wanted()) return;
      show(planes);
      host.shownWithPlanes();
    } else if (host.readsFrame()) host.firstPlane();
    picture.setEnds(ends);
    host.measured();
  }
}
