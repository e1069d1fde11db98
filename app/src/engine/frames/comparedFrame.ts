import type { MediaFacts } from '@inkavo/core/model/facts';
import { useBench } from '../../state/bench';
import { askedNoise } from './askedNoise';
import { Detail } from './detail';
import { FrameFetcher } from './frameFetcher';
import { showsBefore } from '../picture/regionLook';
import type { ScreenPicture } from '../picture/screenPicture';

/**
 * The still frame of the comparison's reference, if it differs: as recorded, or without the step in hand, it is not
 * denoised. Fetched when it is shown; until then the picture's own is used.
 */
export class ComparedFrame {
  private readonly frames: FrameFetcher;
  private readonly detail: Detail;
  /** The frame that is loaded or being fetched. */
  private key = '';

  constructor(
    clipId: string,
    facts: MediaFacts,
    private readonly picture: ScreenPicture,
    private readonly drawn: () => void,
  ) {
    this.frames = new FrameFetcher(clipId, facts, 'compared');
    this.detail = new Detail(clipId, facts, picture, drawn, 'compared');
  }

  /** Another still frame is loaded, or none: invalidates the current one. */
  forget(): void {
    this.close();
    this.key = '';
  }

  /** Called when what is shown, or how, may have changed. */
  look(): void {
    const state = useBench.getState();
    const { atRest, split, beside, frame, view } = state;
    if (!atRest || !(showsBefore(state) || split !== null || beside)) return;
    const noise = askedNoise(state, 'compared');
    if (noise === askedNoise(state, 'graded')) return;
    const key = `${frame} ${noise}`;
    if (key === this.key) this.detail.look(view, frame, true);
    else void this.fetch(key, frame);
  }

  private async fetch(key: string, frame: number): Promise<void> {
    this.key = key;
    const found = await this.frames.fetch(frame, this.picture.size.width).catch(() => null);
    if (this.key !== key) return;
    if (!found?.wanted()) return this.forget();
    this.picture.setRest(found.buffer, found.format, 'compared');
    this.drawn();
    this.look();
  }

  close(): void {
    this.frames.stop();
    this.detail.close();
  }
}
