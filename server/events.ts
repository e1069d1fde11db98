import type { Request, Response } from 'express';
import { BEAT, BEAT_MS, type ServerEvent } from '@inkavo/core/model/events';

/** Sends events to every open page (server-sent events). */
export class Events {
  private readonly open = new Set<Response>();

  constructor(private readonly beatMs = BEAT_MS) {}

  send(event: ServerEvent): void {
    for (const res of this.open) res.write(`data: ${JSON.stringify(event)}\n\n`);
  }

  handle = (req: Request, res: Response): void => {
    res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store' });
    const beat = (): unknown => res.write(`event: ${BEAT}\ndata: ${this.beatMs}\n\n`);
    beat();
    this.open.add(res);
    const timer = setInterval(beat, this.beatMs);
    req.on('close', () => {
      clearInterval(timer);
      this.open.delete(res);
    });
  };

  close(): void {
    for (const res of this.open) res.end();
  }
}
