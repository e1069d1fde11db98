import type { Config, Library } from './config';
import type { Events } from './events';
import type { FrameCache } from './frameCache';
import type { Runner } from './jobs/runner';
import type { ClipStore } from './stores/clips';
import type { JobStore } from './stores/jobs';
import type { LutStore } from './stores/luts';
import type { OutingStore } from './stores/outings';

/** What the routes work with. */
export interface Parts {
  config: Config;
  library: Library;
  outings: OutingStore;
  clips: ClipStore;
  jobs: JobStore;
  luts: LutStore;
  runner: Runner;
  events: Events;
  frames: FrameCache;
}
