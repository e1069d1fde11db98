import type { Request, Response } from 'express';
import { BEAT, BEAT_MS, type ServerEvent } from '@inkavo/core/model/events';

/** Hands events to every open page (server-sent events). */
export class Events {
  private readonly open = new Set<Response>();

  send(event: ServerEvent): void {
    for (const res of this.open) res.write(`data: ${JSON.stringify(event)}\n\n`);
  }

  handle = (req: Request, res: Response): void => {
    res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store' });
    res.write(': open\n\n');
    this.open.add(res);
    const timer = setInterval(() => res.write(`event: ${BEAT}\ndata:\n\n`), BEAT_MS);
    req.on('close', () => {
      clearInterval(timer);
      this.open.delete(res);
    });
  };

  close(): void {
    for (const res of this.open) res.end();
  }
}
