import type { Request } from 'express';
import { fromOtherDevice } from '../sharing/listener';
import { HttpError } from './problems';

/** Addresses of this machine itself, IPv4's also as IPv6 writes them. */
const OWN = new Set(['127.0.0.1', '::1', '::ffff:127.0.0.1']);

/** Refuses what comes over the network. `what`: the sentence that says so. */
export function ownMachineOnly(req: Request, what: string): void {
  if (fromOtherDevice(req) || !OWN.has(req.socket.remoteAddress ?? '')) throw new HttpError(403, 'not-possible', what);
}
