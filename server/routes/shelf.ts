import { text } from 'express';
import { z } from 'zod';
import { GRADE_FORMATS } from '@inkavo/core/formats/gradeFile';
import { LUT_SIZES } from '@inkavo/core/formats/gradeLut';
import { stepsSchema } from '@inkavo/core/model/grade';
import { idSchema } from '@inkavo/core/model/outing';
import { LUT_ROLES, shelfItemSchema, shelfPatch, shelfRequest } from '@inkavo/core/model/shelf';
import { inThread } from '@inkavo/media/threads/pool';
import type { Api } from '../http/api';
import { HttpError } from '../http/problems';
import type { Parts } from '../parts';

const one = z.object({ id: idSchema });
const lut = z.object({ id: z.string().regex(/^[0-9a-f]{64}$/, 'a LUT has 64 hexadecimal digits.') });
const addQuery = z.object({
  name: z.string().max(200).default('LUT'),
  group: z.string().trim().max(60).default(''),
  role: z.enum(LUT_ROLES).default('look'),
});
const gradeFileBody = z.object({
  steps: stepsSchema,
  format: z.enum(GRADE_FORMATS),
  size: z.union(LUT_SIZES.map((n) => z.literal(n))).default(33),
  name: z.string().trim().min(1).max(120),
  /** Whether steps that a table cannot express are omitted and named, instead of failing. */
  partly: z.boolean().default(false),
});
const gradeFileAnswer = z.object({ fileName: z.string(), text: z.string(), lost: z.array(z.string()) });
const YEAR = 31_536_000;

/** The shelf: tables, recipes and profiles. */
export function shelfRoutes(api: Api, { shelf, events }: Parts): void {
  const changed = (): void => events.send({ type: 'shelf' });
  api.route(
    {
      method: 'get',
      path: '/shelf',
      summary: 'Tables, recipes and profiles',
      answers: { 200: z.array(shelfItemSchema) },
    },
    async ({ answer }) => answer(200, await shelf.list()),
  );
  api.route(
    {
      method: 'post',
      path: '/shelf/files',
      summary: 'Bring in a .cube, CLF, recipe, grade or profile file, as text',
      query: addQuery,
      reader: text({ type: () => true, limit: '120mb' }),
      answers: { 201: shelfItemSchema },
    },
    async ({ query: { name, ...where }, req, answer }) => {
      const item = await shelf.add(typeof req.body === 'string' ? req.body : '', name, where);
      changed();
      answer(201, item);
    },
  );
  api.route(
    {
      method: 'post',
      path: '/grade-files',
      summary: 'Steps as a table, a CDL or a grade file',
      body: gradeFileBody,
      answers: { 200: gradeFileAnswer },
    },
    async ({ body: { steps, ...request }, answer }) => {
      const luts = await shelf.textsFor(steps);
      const made = await inThread({ kind: 'gradeFile', steps, luts, request });
      if ('problem' in made) throw new HttpError(422, 'not-possible', made.problem);
      answer(200, made);
    },
  );
  api.route(
    {
      method: 'post',
      path: '/shelf',
      summary: 'Put a recipe or a profile on the shelf',
      body: shelfRequest,
      answers: { 201: shelfItemSchema },
    },
    async ({ body, answer }) => {
      const item = await shelf.make(body);
      changed();
      answer(201, item);
    },
  );
  api.route(
    {
      method: 'patch',
      path: '/shelf/{id}',
      summary: 'Change name, group, note or role of an item',
      params: one,
      body: shelfPatch,
      answers: { 200: shelfItemSchema },
    },
    async ({ params, body, answer }) => {
      const item = await shelf.change(params.id, body);
      changed();
      answer(200, item);
    },
  );
  api.route(
    {
      method: 'get',
      path: '/shelf/{id}/file',
      summary: 'An item as an open file',
      params: one,
      answers: { 200: { type: 'application/octet-stream', holds: 'A .cube or CLF file, a recipe or a profile.' } },
    },
    async ({ params, res }) => {
      const { extension, title, text: body } = await shelf.file(params.id);
      res.attachment(`${title.replace(/[/\\:*?"<>|]/g, '_')}.${extension}`).set('Cache-Control', 'no-store');
      res.type('application/octet-stream').send(Buffer.from(body));
    },
  );
  api.route(
    {
      method: 'get',
      path: '/luts/{id}',
      summary: 'The text of a table',
      params: lut,
      answers: { 200: { type: 'text/plain', holds: 'The file as it was brought in.' } },
    },
    async ({ params, res }) => {
      const body = await shelf.text(params.id);
      res.set('Cache-Control', `private, max-age=${YEAR}, immutable`).type('text/plain').send(body);
    },
  );
}
