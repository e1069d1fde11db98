import type { MediaFacts } from '@inkavo/core/model/facts';
import { FrameFetcher } from './frameFetcher';
import type { Slot, View } from '../picture/look';
import type { ScreenPicture } from '../picture/screenPicture';

/** Idle time before the magnified part is fetched. */
const STILL_MS = 160;
/** Margin fetched on every side, so that small moves do not reveal coarse pixels. */
const MARGIN = 0.15;

const evenDown = (v: number): number => 2 * Math.floor(v / 2);
const hold = (v: number, most: number): number => Math.min(most, Math.max(0, v));

/** The file's pixels in a magnified view, with a margin; aligned to even numbers. */
export function partOf(view: View, { width, height }: Pick<MediaFacts, 'width' | 'height'>) {
  const span = (from: number, size: number, all: number): [from: number, length: number] => {
    const low = evenDown(hold((from - MARGIN * size) * all, all));
    const high = evenDown(hold((from + size * (1 + MARGIN)) * all + 2, all));
    return [low, high - low];
  };
  const [x, w] = span(view.x, view.width, width);
  const [y, h] = span(view.y, view.height, height);
  return { x, y, width: w, height: h };
}

/** Tolerance for a view to count as 1:1. */
const ONE_TO_ONE = 0.005;

/**
 * Snaps a 1:1 view to whole pixels of the file, since interpolation would make it softer than the export. Other views
 * are returned unchanged. `screen`: the picture's size in device pixels.
 */
export function alignedView(
  view: View,
  { width, height }: Pick<MediaFacts, 'width' | 'height'>,
  screen: { width: number; height: number },
): View {
  const scale = screen.width / (view.width * width);
  if (view.width >= 1 || Math.abs(scale - 1) > ONE_TO_ONE) return view;
  const along = (from: number, file: number, shown: number): [from: number, size: number] => [
    Math.round(hold(from * file, Math.max(0, file - shown))) / file,
    shown / file,
  ];
  const [[x, w], [y, h]] = [along(view.x, width, screen.width), along(view.y, height, screen.height)];
  return { x, y, width: w, height: h };
}

/** Fetches the magnified part of a still frame at the resolution of the file or the screen. */
export class Detail {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly frames: FrameFetcher;

  constructor(
    clipId: string,
    private readonly facts: MediaFacts,
    private readonly picture: ScreenPicture,
    private readonly drawn: () => void,
    private readonly slot: Slot = 'graded',
  ) {
    this.frames = new FrameFetcher(clipId, facts, slot);
  }

  /** Called when the view or the still frame has changed. */
  look(view: View, frame: number, atRest: boolean): void {
    this.close();
    if (atRest && this.picture.wantsDetail(view, this.facts.width, this.slot))
      this.timer = setTimeout(() => void this.fetch(view, frame), STILL_MS);
  }

  private async fetch(view: View, frame: number): Promise<void> {
    const { facts, picture } = this;
    const part = partOf(view, facts);
    const wanted = Math.min(part.width, Math.ceil((picture.size.width * part.width) / (view.width * facts.width)));
    // The coarser picture is already shown: a failure needs no message.
    const found = await this.frames.fetch(frame, wanted, part).catch(() => null);
    if (!found) return;
    const shown = {
      x: part.x / facts.width,
      y: part.y / facts.height,
      width: part.width / facts.width,
      height: part.height / facts.height,
    };
    picture.setDetail(found.buffer, found.format, shown, this.slot);
    this.drawn();
  }

  close(): void {
    clearTimeout(this.timer);
    this.frames.stop();
  }
}
