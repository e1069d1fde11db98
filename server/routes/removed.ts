import { z } from 'zod';
import { removalRequest, removedSchema, type Removable } from '@inkavo/core/model/removed';
import type { Api } from '../http/api';
import { notFound } from '../http/problems';
import type { Parts } from '../parts';

const NAMES: Record<Removable, string> = {
  outing: 'outing',
  camera: 'camera',
  clip: 'clip',
  file: 'file',
  shelf: 'item of the shelf',
  kept: 'kept frame',
};

/** Removing outings, cameras, clips and finished files; restoring or permanently deleting them. */
export function removedRoutes(api: Api, { removed, purge, events, jobs }: Parts): void {
  const tell = async (kind: Removable, ids: string[]): Promise<void> => {
    if (kind === 'file') events.send({ type: 'jobs' });
    else if (kind === 'shelf') events.send({ type: 'shelf' });
    else if (kind === 'kept')
      for (const outingId of await removed.outingsOf(kind, ids)) events.send({ type: 'kept', outingId });
    else for (const id of await removed.outingsOf(kind, ids)) events.send({ type: 'outing', id });
  };
  api.route(
    {
      method: 'get',
      path: '/removed',
      summary: 'What was removed and can be put back',
      answers: { 200: z.array(removedSchema) },
    },
    async ({ answer }) => answer(200, await removed.list()),
  );
  api.route(
    {
      method: 'post',
      path: '/removed',
      summary: 'Remove; it can be put back for some days',
      body: removalRequest,
      answers: { 204: null },
    },
    async ({ body: { kind, ids }, answer }) => {
      // A job that ended without a file cannot be restored.
      if (kind === 'file') for (const id of ids) await jobs.get(id);
      if ((await removed.remove(kind, ids)) === 0) throw notFound(NAMES[kind]);
      await tell(kind, ids);
      answer(204);
    },
  );
  api.route(
    {
      method: 'post',
      path: '/removed/back',
      summary: 'Put back what was removed',
      body: removalRequest,
      answers: { 204: null },
    },
    async ({ body: { kind, ids }, answer }) => {
      if ((await removed.putBack(kind, ids)) === 0) throw notFound(NAMES[kind]);
      await tell(kind, ids);
      answer(204);
    },
  );
  api.route(
    {
      method: 'delete',
      path: '/removed',
      summary: 'Delete for good all that was removed, with its files',
      answers: { 204: null },
    },
    async ({ answer }) => {
      await purge.run(Date.now() / 1000);
      answer(204);
    },
  );
}
