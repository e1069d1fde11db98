import { text } from 'express';
import { z } from 'zod';
import { lutEntrySchema } from '@inkavo/core/model/lut';
import type { Api } from '../http/api';
import type { Parts } from '../parts';

const addQuery = z.object({ name: z.string().max(200).default('LUT') });
const one = z.object({ id: z.string().regex(/^[0-9a-f]{64}$/, 'a LUT has 64 hexadecimal digits.') });
const YEAR = 31_536_000;

/** Look-up tables: list, bring in, fetch. */
export function lutRoutes(api: Api, { luts, events }: Parts): void {
  api.route(
    { method: 'get', path: '/luts', summary: 'Look-up tables', answers: { 200: z.array(lutEntrySchema) } },
    async ({ answer }) => answer(200, await luts.list()),
  );
  api.route(
    {
      method: 'post',
      path: '/luts',
      summary: 'Bring in a .cube or CLF file, as text',
      query: addQuery,
      reader: text({ type: () => true, limit: '120mb' }),
      answers: { 201: lutEntrySchema },
    },
    async ({ query, req, answer }) => {
      const entry = await luts.add(typeof req.body === 'string' ? req.body : '', query.name);
      events.send({ type: 'luts' });
      answer(201, entry);
    },
  );
  api.route(
    {
      method: 'get',
      path: '/luts/{id}',
      summary: 'The file of a table',
      params: one,
      answers: { 200: { type: 'text/plain', holds: 'The file as it was brought in.' } },
    },
    async ({ params, res }) => {
      const body = await luts.text(params.id);
      res.set('Cache-Control', `private, max-age=${YEAR}, immutable`).type('text/plain').send(body);
    },
  );
}
