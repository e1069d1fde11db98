import type { MediaFacts } from '@inkavo/core/model/facts';
import { useBench } from '../../state/bench';
import { askedNoise } from './askedNoise';
import { Detail } from './detail';
import { FrameFetcher } from './frameFetcher';
import { showsBefore } from '../picture/regionLook';
import type { ScreenPicture } from '../picture/screenPicture';

/**
 * The frame at rest that the picture is compared with, where it is another one: as recorded, or without the step in hand, it has
 * its noise. Fetched when it is to be seen; until it is there the picture's own serves.
 */
export class ComparedFrame {
  private readonly frames: FrameFetcher;
  private readonly detail: Detail;
  /** What is there or on its way. */
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

  /** Another frame at rest is there, or none: what was set is gone. */
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
