import type { ProxyPart, ProxyParts } from '@inkavo/core/model/proxyParts';
import { partAt, partsMade, SHORT_FRAMES, type Wanted } from '@inkavo/media/frames/makeProxy';
import type { Library } from './config';
import type { Events } from './events';
import type { JobStore } from './stores/jobs';

/** What is given up of a part that is being made where somebody waits for another one, or for less of the same: shares of it. */
const GIVEN_UP = { other: 0.5, same: 0.25 };

const holds = ({ first, count }: ProxyPart, frame: number): boolean => frame >= first && frame < first + count;

/** Proxies that are not whole yet: what of them can be played, and what is wanted next. */
export class Proxies {
  private readonly firstWanted = new Map<string, Wanted>();
  private readonly making = new Map<string, { part: ProxyPart; breakOff: (below: number) => void }>();

  constructor(
    private readonly library: Library,
    private readonly jobs: JobStore,
    private readonly events: Events,
  ) {}

  parts = (hash: string): ProxyParts => ({
    made: partsMade(this.library.proxy(hash)),
    making: this.making.get(hash)?.part ?? null,
  });

  /** Path of the part that begins with a frame; undefined: it is not made. */
  part = (hash: string, first: number): string | undefined => partAt(this.library.proxy(hash), first);

  /** The proxy of this file is the next one, and what of it comes from this frame on is made first. */
  async want(hash: string, wanted: Wanted): Promise<void> {
    this.firstWanted.set(hash, wanted);
    // Of several that are wanted, the last.
    if (await this.jobs.moveByPayload({ kind: 'proxy', hash }, -Date.now() / 1000)) this.events.send({ type: 'jobs' });
    const { waits, frame } = wanted;
    if (!waits || this.parts(hash).made.some((part) => holds(part, frame))) return;
    for (const [made, { part, breakOff }] of this.making) {
      const isSame = made === hash && holds(part, frame);
      // It cannot come sooner than in a short part.
      if (!isSame || part.count > SHORT_FRAMES) breakOff(isSame ? GIVEN_UP.same : GIVEN_UP.other);
    }
  }

  wanted = (hash: string): Wanted => this.firstWanted.get(hash) ?? { frame: 0, waits: false };

  /** Notes that a part is being made. `breakOff` gives it up, if less than a share of it is made. */
  begun(hash: string, part: ProxyPart, breakOff: (below: number) => void): void {
    this.making.set(hash, { part, breakOff });
    this.events.send({ type: 'proxy', hash });
  }

  /** Notes that no part is being made any more. */
  made(hash: string): void {
    this.making.delete(hash);
    this.events.send({ type: 'proxy', hash });
  }

  /** The work on a proxy has ended; unless it goes on later, nothing is wanted of it any more. */
  ended(hash: string, goesOn: boolean): void {
    this.made(hash);
    if (!goesOn) this.firstWanted.delete(hash);
  }
}
