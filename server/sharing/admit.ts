import { parse } from 'cookie';
import type { NextFunction, Request, Response } from 'express';
import type { Device } from '@inkavo/core/model/sharing';
import { HttpError } from '../http/problems';
import { fromOtherDevice } from './listener';
import type { Sharing } from './sharing';

const COOKIE = 'inkavo-device';
const YEAR_MS = 365 * 86_400_000;
/** Paths available to unpaired devices. */
const FOR_ALL = ['/join'];

const devices = new WeakMap<Request, Device>();

/** The requesting device; null on the server's own machine, and where no pairing is required. */
export const deviceAsking = (req: Request): Device | null => devices.get(req) ?? null;

/** Refuses requests from unpaired devices. */
export const admittedOnly = (sharing: Sharing) =>
  async function admit(req: Request, res: Response, next: NextFunction): Promise<void> {
    if (!fromOtherDevice(req) || FOR_ALL.includes(req.path)) return next();
    const secret = parse(req.headers.cookie ?? '')[COOKIE];
    const device = secret ? await sharing.known(secret, res) : null;
    if (!device)
      throw new HttpError(
        401,
        'not-let-in',
        'This device was not let in. It needs the code that the server’s machine shows.',
      );
    devices.set(req, device);
    next();
  };

const attributes = (req: Request) =>
  ({ httpOnly: true, sameSite: 'strict', secure: 'encrypted' in req.socket, path: '/' }) as const;

/** Sets a cookie with the secret that identifies the device from now on. */
export const rememberDevice = (req: Request, res: Response, secret: string): void =>
  void res.cookie(COOKIE, secret, { ...attributes(req), maxAge: YEAR_MS });

export const forgetDevice = (req: Request, res: Response): void => void res.clearCookie(COOKIE, attributes(req));
