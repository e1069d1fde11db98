import type { Request, Response } from 'express';
import type { Job } from '@inkavo/core/model/job';

/** What the pages are told as it happens. */
export type Event =
  | { type: 'job'; job: Job }
  | { type: 'outing'; id: string }
  /** Steps of a clip changed; `shared`: also those of its camera or its outing, so those of other clips. */
  | { type: 'clip'; id: string; outingId: string; shared: boolean }
  | { type: 'shelf' }
  /** A card or a disk was plugged in or taken out. */
  | { type: 'sources' }
  /** Other devices are let in, or not any more; one came or went. */
  | { type: 'sharing' }
  | { type: 'kept'; outingId: string }
  /** Several jobs changed at once. */
  | { type: 'jobs' };

const KEEP_ALIVE_MS = 20_000;

/** Hands events to every open page (server-sent events). */
export class Events {
  private readonly open = new Set<Response>();

  send(event: Event): void {
    for (const res of this.open) res.write(`data: ${JSON.stringify(event)}\n\n`);
  }

  handle = (req: Request, res: Response): void => {
    res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store' });
    res.write(': open\n\n');
    this.open.add(res);
    const timer = setInterval(() => res.write(': still here\n\n'), KEEP_ALIVE_MS);
    req.on('close', () => {
      clearInterval(timer);
      this.open.delete(res);
    });
  };

  close(): void {
    for (const res of this.open) res.end();
  }
}
