import type { Request } from 'express';
import { fromOtherDevice } from '../sharing/listener';
import { HttpError } from './problems';

/** Addresses of this machine itself; IPv4 also in IPv6 notation. */
const OWN = new Set(['127.0.0.1', '::1', '::ffff:127.0.0.1']);

/** Refuses requests from the network. `what`: the message. */
export function ownMachineOnly(req: Request, what: string): void {
  if (fromOtherDevice(req) || !OWN.has(req.socket.remoteAddress ?? '')) throw new HttpError(403, 'not-possible', what);
}
