import type { Job } from './job';

/** Events that the server sends to every open page. */
export type ServerEvent =
  | { type: 'job'; job: Job }
  | { type: 'outing'; id: string }
  /** Steps of a clip changed; `shared`: steps of its camera or outing too, which affects other clips. */
  | { type: 'clip'; id: string; outingId: string; shared: boolean }
  | { type: 'shelf' }
  /** More of the proxy of the file with this hash can be played. */
  | { type: 'proxy'; hash: string }
  /** A card or a disk was inserted or removed. */
  | { type: 'sources' }
  /** Sharing was switched on or off, or a device was added or removed. */
  | { type: 'sharing' }
  | { type: 'kept'; outingId: string }
  /** Several jobs changed at once. */
  | { type: 'jobs' };

/**
 * Name of the heartbeat event, whose data is the number of milliseconds until the next one. On a poor network a lost
 * connection is not detected otherwise.
 */
export const BEAT = 'beat';
export const BEAT_MS = 5_000;
