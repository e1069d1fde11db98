import { z } from 'zod';
import { clipsRequest } from '@inkavo/core/model/change';
import { clipSchema, idSchema } from '@inkavo/core/model/outing';
import type { Api } from '../http/api';
import type { Parts } from '../parts';

/** Operations on several clips. */
export function togetherRoutes(api: Api, { clips, changes, shelf, events }: Parts): void {
  api.route(
    {
      method: 'post',
      path: '/clips/some',
      summary: 'Several clips with their steps, in the order that is asked for',
      body: z.object({ ids: z.array(idSchema).min(1).max(2000) }),
      answers: { 200: z.array(clipSchema) },
    },
    async ({ body, answer }) =>
      answer(200, await clips.transaction((trx) => inTurn(body.ids, (id) => clips.get(id, trx)))),
  );

  api.route(
    {
      method: 'post',
      path: '/clips/together',
      summary: 'Change several clips and their own steps; all of it is stored, or nothing',
      body: clipsRequest,
      answers: { 204: null },
    },
    async ({ body, answer }) => {
      await shelf.check(body.changes.flatMap(({ steps }) => steps?.next ?? []));
      const changed = await clips.transaction((trx) =>
        inTurn(body.changes, async ({ id, patch, steps }) => {
          const clip = await clips.update(id, patch ?? {}, trx);
          if (steps) await changes.lay(id, steps, trx);
          return clip;
        }),
      );
      for (const [i, { id, outingId }] of changed.entries())
        if (body.changes[i].steps) events.send({ type: 'clip', id, outingId, shared: false });
      for (const id of new Set(changed.map((c) => c.outingId))) events.send({ type: 'outing', id });
      answer(204);
    },
  );
}

/** Results of operations on several items, one after the other. */
async function inTurn<T, R>(things: readonly T[], work: (thing: T) => Promise<R>): Promise<R[]> {
  const results: R[] = [];
  for (const thing of things) results.push(await work(thing));
  return results;
}
