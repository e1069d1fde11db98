import type { Config, Library } from './config';
import type { Events } from './events';
import type { Frames } from './frames';
import type { Purge } from './jobs/purge';
import type { Runner } from './jobs/runner';
import type { DiskSpace } from './diskSpace';
import type { Sharing } from './sharing/sharing';
import type { Sources } from './sources';
import type { Proxies } from './proxies';
import type { Strips } from './strips';
import type { AnswerStore } from './stores/answers';
import type { ChangeStore } from './stores/changes';
import type { ClipStore } from './stores/clips';
import type { JobStore } from './stores/jobs';
import type { KeptStore } from './stores/kept';
import type { OutingStore } from './stores/outings';
import type { PresetStore } from './stores/presets';
import type { RemovedStore } from './stores/removed';
import type { ShelfStore } from './stores/shelf';
import type { Thumbs } from './thumbs';

/** Dependencies of the routes. */
export interface Parts {
  config: Config;
  library: Library;
  answers: AnswerStore;
  outings: OutingStore;
  clips: ClipStore;
  changes: ChangeStore;
  jobs: JobStore;
  shelf: ShelfStore;
  kept: KeptStore;
  presets: PresetStore;
  sources: Sources;
  runner: Runner;
  events: Events;
  frames: Frames;
  thumbs: Thumbs;
  strips: Strips;
  proxies: Proxies;
  disk: DiskSpace;
  removed: RemovedStore;
  purge: Purge;
  sharing: Sharing;
}
