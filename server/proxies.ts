import type { ProxyPart, ProxyParts } from '@inkavo/core/model/proxyParts';
import { partAt, partsMade, SHORT_FRAMES, type Wanted } from '@inkavo/media/frames/makeProxy';
import type { Library } from './config';
import type { Events } from './events';
import type { JobStore } from './stores/jobs';

/** Maximum progress, as a share, of a part that is abandoned in favour of another part, or of a piece of the same. */
const GIVEN_UP = { other: 0.5, same: 0.25 };

const holds = ({ first, count }: ProxyPart, frame: number): boolean => frame >= first && frame < first + count;

/** Unfinished proxies: which parts can be played, and what is wanted next. */
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

  /** Path of the part that begins with a frame; undefined: it does not exist. */
  part = (hash: string, first: number): string | undefined => partAt(this.library.proxy(hash), first);

  /** Gives priority to the proxy of this file, and in it to the part from this frame on. */
  async want(hash: string, wanted: Wanted): Promise<void> {
    this.firstWanted.set(hash, wanted);
    // If several are wanted, the last request wins.
    if (await this.jobs.moveByPayload({ kind: 'proxy', hash }, -Date.now() / 1000)) this.events.send({ type: 'jobs' });
    const { waits, frame } = wanted;
    if (!waits || this.parts(hash).made.some((part) => holds(part, frame))) return;
    for (const [made, { part, breakOff }] of this.making) {
      const isSame = made === hash && holds(part, frame);
      // A short piece cannot be made any sooner.
      if (!isSame || part.count > SHORT_FRAMES) breakOff(isSame ? GIVEN_UP.same : GIVEN_UP.other);
    }
  }

  wanted = (hash: string): Wanted => this.firstWanted.get(hash) ?? { frame: 0, waits: false };

  /** Records that a part is being made. `breakOff` abandons it below a share of progress. */
  begun(hash: string, part: ProxyPart, breakOff: (below: number) => void): void {
    this.making.set(hash, { part, breakOff });
    this.events.send({ type: 'proxy', hash });
  }

  /** Records that no part is being made any more. */
  made(hash: string): void {
    this.making.delete(hash);
    this.events.send({ type: 'proxy', hash });
  }

  /** Work on a proxy has ended; unless it continues later, requests for it are dropped. */
  ended(hash: string, goesOn: boolean): void {
    this.made(hash);
    if (!goesOn) this.firstWanted.delete(hash);
  }
}
