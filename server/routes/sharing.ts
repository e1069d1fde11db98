import { rateLimit } from 'express-rate-limit';
import { z } from 'zod';
import { idSchema } from '@inkavo/core/model/outing';
import {
  codeSchema,
  deviceSchema,
  joinRequest,
  sharingRequest,
  sharingSchema,
  thisDeviceSchema,
} from '@inkavo/core/model/sharing';
import type { Api } from '../http/api';
import { ownMachineOnly } from '../http/ownMachine';
import { badRequest, HttpError } from '../http/problems';
import type { Parts } from '../parts';
import { deviceAsking, forgetDevice, rememberDevice } from '../sharing/admit';
import { fromOtherDevice } from '../sharing/listener';

/** Maximum code attempts per minute, over all devices. */
const TRIES_A_MINUTE = 10;
const ELSEWHERE = 'Other devices are let in and out on the server’s own machine.';

/** Pairing and removing other devices. */
export function sharingRoutes(api: Api, { sharing }: Parts): void {
  api.route(
    {
      method: 'get',
      path: '/sharing',
      summary: 'Whether other devices are let in, where, and which; from the server’s own machine alone',
      answers: { 200: sharingSchema },
    },
    async ({ req, answer }) => {
      ownMachineOnly(req, ELSEWHERE);
      answer(200, await sharing.state());
    },
  );
  api.route(
    {
      method: 'patch',
      path: '/sharing',
      summary: 'Let other devices in, or none any more; from the server’s own machine alone',
      body: sharingRequest,
      answers: { 200: sharingSchema },
    },
    async ({ req, body, answer }) => {
      ownMachineOnly(req, ELSEWHERE);
      answer(200, await sharing.set(body));
    },
  );
  api.route(
    {
      method: 'post',
      path: '/sharing/code',
      summary: 'The code that lets the next device in, valid for some minutes; from the server’s own machine alone',
      answers: { 200: codeSchema },
    },
    ({ req, answer }) => {
      ownMachineOnly(req, ELSEWHERE);
      answer(200, sharing.code());
    },
  );
  api.route(
    {
      method: 'delete',
      path: '/sharing/devices/{id}',
      summary: 'Let a device out; from the server’s own machine alone',
      params: z.object({ id: idSchema }),
      answers: { 204: null },
    },
    async ({ req, params, answer }) => {
      ownMachineOnly(req, ELSEWHERE);
      await sharing.remove(params.id);
      answer(204);
    },
  );
  api.route(
    {
      method: 'post',
      path: '/join',
      summary: 'Come in with a code; the device is known by a cookie from then on',
      body: joinRequest,
      answers: { 201: deviceSchema },
      reader: rateLimit({
        windowMs: 60_000,
        limit: TRIES_A_MINUTE,
        keyGenerator: () => 'all',
        standardHeaders: 'draft-8',
        legacyHeaders: false,
        handler: (_req, _res, next) =>
          next(new HttpError(429, 'too-often', 'Too many codes were tried. Wait a minute, then try again.')),
      }),
    },
    async ({ req, res, body, answer }) => {
      if (!fromOtherDevice(req)) throw badRequest('This device needs no code.');
      const { device, secret } = await sharing.join(body.code, body.name);
      rememberDevice(req, res, secret);
      answer(201, device);
    },
  );
  api.route(
    {
      method: 'get',
      path: '/device',
      summary: 'The device that asks',
      answers: { 200: thisDeviceSchema },
    },
    ({ req, answer }) => answer(200, { device: deviceAsking(req) }),
  );
  api.route(
    {
      method: 'delete',
      path: '/device',
      summary: 'Leave: this device is not let in any more',
      answers: { 204: null },
    },
    async ({ req, res, answer }) => {
      const device = deviceAsking(req);
      if (!device) throw badRequest('This device was never let in: it needs no code.');
      forgetDevice(req, res);
      answer(204);
      await sharing.remove(device.id);
    },
  );
}
