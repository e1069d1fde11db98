import type { ProxyPart, ProxyParts } from '@inkavo/core/model/proxyParts';
import { partAt, partsMade } from '@inkavo/media/frames/makeProxy';
import type { Library } from './config';
import type { Events } from './events';
import type { JobStore } from './stores/jobs';

/** Proxies that are not whole yet: what of them can be played, and what is wanted next. */
export class Proxies {
  /** By hash of the original: the frame that somebody looks at. */
  private readonly wanted = new Map<string, number>();
  private readonly making = new Map<string, ProxyPart>();

  constructor(
    private readonly library: Library,
    private readonly jobs: JobStore,
    private readonly events: Events,
  ) {}

  parts = (hash: string): ProxyParts => ({
    made: partsMade(this.library.proxy(hash)),
    making: this.making.get(hash) ?? null,
  });

  /** Path of the part that begins with a frame; undefined: it is not made. */
  part = (hash: string, first: number): string | undefined => partAt(this.library.proxy(hash), first);

  /** The proxy of this file is the next one, and what of it comes from this frame on is made first. */
  async want(hash: string, frame: number): Promise<void> {
    this.wanted.set(hash, frame);
    // Of several that are wanted, the last.
    if (await this.jobs.moveByPayload({ kind: 'proxy', hash }, -Date.now() / 1000)) this.events.send({ type: 'jobs' });
  }

  wantedFrom = (hash: string): number => this.wanted.get(hash) ?? 0;

  /** Notes that a part is being made, or that none is. */
  begun(hash: string, part: ProxyPart | null): void {
    if (part) this.making.set(hash, part);
    else this.making.delete(hash);
    this.events.send({ type: 'proxy', hash });
  }

  /** The work on a proxy has ended; where it is whole, nothing is wanted of it any more. */
  ended(hash: string, whole: boolean): void {
    this.begun(hash, null);
    if (whole) this.wanted.delete(hash);
  }
}
