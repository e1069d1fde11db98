import { createHash } from 'node:crypto';
import { IDEMPOTENCY_KEY, KEY_HEADER } from '@inkavo/core/model/idempotency';
import type { Request, Response } from 'express';
import type { AnswerStore } from '../stores/answers';
import { badRequest, HttpError } from './problems';

const fingerprint = ({ method, originalUrl, body }: Request): string =>
  createHash('sha256')
    .update(JSON.stringify([method, originalUrl, body ?? null]))
    .digest('hex');

/**
 * Requests that may be repeated without being carried out twice, since their answer may be lost on the way: a repeated
 * key gets the stored answer. Failed requests changed nothing, and are carried out again.
 */
export class Repeats {
  private readonly underWay = new Map<string, Promise<void>>();

  constructor(private readonly answers: AnswerStore) {}

  /**
   * Carries out a request, or answers with what was answered before. `carryOut` gets a function that stores an answer,
   * then calls back to send it. Throws a 400 {@link HttpError} for an invalid key, and 422 for one of another request.
   */
  async once(
    req: Request,
    res: Response,
    carryOut: (store: (status: number, value: unknown, send: () => void) => void) => Promise<void>,
  ): Promise<void> {
    const key = req.get(KEY_HEADER);
    if (key === undefined || req.method === 'GET') return carryOut((_status, _value, send) => send());
    if (!IDEMPOTENCY_KEY.test(key)) throw badRequest(`${KEY_HEADER}: 10 to 64 letters, digits, “-” or “_”.`);
    for (let other = this.underWay.get(key); other; other = this.underWay.get(key)) await other.catch(() => undefined);
    let storing: Promise<void> | undefined;
    const request = fingerprint(req);
    const work = async (): Promise<void> => {
      const before = await this.answers.find(key);
      if (before && before.request !== request)
        throw new HttpError(422, 'bad-request', `${KEY_HEADER}: it belongs to another request.`);
      if (before) return sendAgain(res, before);
      await carryOut((status, value, send) => {
        const body = value === undefined ? null : JSON.stringify(value);
        // What was done is answered even if its answer cannot be stored.
        storing = this.answers.keep(key, { request, status, body }).catch(console.error).then(send);
      });
      await storing;
    };
    const own = work().finally(() => this.underWay.delete(key));
    this.underWay.set(key, own);
    await own;
  }
}

function sendAgain(res: Response, { status, body }: { status: number; body: string | null }): void {
  res.status(status).set('Cache-Control', 'no-store');
  if (body === null) res.end();
  else res.type('application/json').send(body);
}
