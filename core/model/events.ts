import type { Job } from './job';

/** What the server tells every open page as it happens. */
export type ServerEvent =
  | { type: 'job'; job: Job }
  | { type: 'outing'; id: string }
  /** Steps of a clip changed; `shared`: also those of its camera or its outing, so those of other clips. */
  | { type: 'clip'; id: string; outingId: string; shared: boolean }
  | { type: 'shelf' }
  /** More of the proxy of the file with this hash can be played. */
  | { type: 'proxy'; hash: string }
  /** A card or a disk was plugged in or taken out. */
  | { type: 'sources' }
  /** Other devices are let in, or not any more; one came or went. */
  | { type: 'sharing' }
  | { type: 'kept'; outingId: string }
  /** Several jobs changed at once. */
  | { type: 'jobs' };

/**
 * A stream of events says that it goes on by an event of this name, whose data is after how many milliseconds it will say so
 * again. Over a weak network nothing else tells that the other side is still there.
 */
export const BEAT = 'beat';
export const BEAT_MS = 5_000;
