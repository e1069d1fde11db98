import { z } from 'zod';
import { CODECS, DELIVERY_INFO, deliverySchema, type Delivery } from '@inkavo/core/model/delivery';
import { documentRequest } from '@inkavo/core/model/document';
import { filmRequest } from '@inkavo/core/model/film';
import { deliveryRequest, expectedSchema, jobSchema, presetRequest, presetSchema } from '@inkavo/core/model/job';
import { idSchema, type Clip } from '@inkavo/core/model/outing';
import { colourProblem } from '@inkavo/core/program/deliver';
import { encodableCodecs } from '@inkavo/media/export/encoders';
import { hardwareEncoders } from '@inkavo/media/export/hardwareEncoders';
import { documentJob, exportJob, expectedOf, filmJob, wholeClip } from '../deliveries';
import type { Api } from '../http/api';
import { badRequest, unlessGone } from '../http/problems';
import type { Parts } from '../parts';
import type { NewJob } from '../stores/newJob';

/** Deliveries: exports of clips and films, and previews of their outcome. */
export function deliveryRoutes(api: Api, parts: Parts): void {
  const { jobs, runner, events, presets } = parts;
  const queue = async (wanted: NewJob[]) => {
    const added = await jobs.addAll(wanted);
    for (const job of added) events.send({ type: 'job', job });
    runner.wake();
    return added;
  };
  /** Throws a 400 {@link HttpError} if a clip cannot be delivered in the requested colours. */
  const mustLeave = (clip: Pick<Clip, 'name' | 'facts'>, delivery: Delivery): void => {
    const problem = colourProblem(clip.facts, delivery);
    if (problem) throw badRequest(`${clip.name}: ${problem}`);
  };
  const mustEncode = async ({ codec, effort }: Delivery): Promise<void> => {
    if (!(await encodableCodecs()).has(codec)) throw badRequest('This codec cannot be encoded on this machine.');
    if (effort === 'fast' && !(await hardwareEncoders()).has(codec))
      throw badRequest(`No hardware encoder of this machine encodes ${DELIVERY_INFO[codec].title}.`);
  };

  api.route(
    {
      method: 'get',
      path: '/deliveries/codecs',
      summary: 'Codecs that can be encoded on this machine; fast: by a hardware encoder too',
      answers: { 200: z.array(z.object({ codec: z.enum(CODECS), fast: z.boolean() })) },
    },
    async ({ answer }) => {
      const [found, units] = await Promise.all([encodableCodecs(), hardwareEncoders()]);
      answer(
        200,
        CODECS.filter((c) => found.has(c)).map((codec) => ({ codec, fast: units.has(codec) })),
      );
    },
  );

  api.route(
    {
      method: 'post',
      path: '/deliveries/expected',
      summary: 'How large a delivery becomes; some frames are encoded to learn it',
      body: z.object({
        clipId: idSchema,
        delivery: deliverySchema,
        /** Clips delivered together, the first of which this is. */
        of: z.number().int().min(1).max(500).default(1),
      }),
      answers: { 200: expectedSchema },
    },
    ({ body, res, answer }) =>
      unlessGone(res, async (signal) => {
        await mustEncode(body.delivery);
        const clip = await wholeClip(parts, body.clipId);
        mustLeave(clip.clip, body.delivery);
        answer(200, await expectedOf(parts, clip, body.delivery, body.of, signal));
      }),
  );

  api.route(
    {
      method: 'post',
      path: '/deliveries',
      summary: 'Queue exports of clips',
      body: deliveryRequest,
      answers: { 202: z.array(jobSchema) },
    },
    async ({ body: { clipIds, delivery, also }, answer }) => {
      const forms = [delivery, ...also];
      for (const form of forms) await mustEncode(form);
      const wanted: NewJob[] = [];
      for (const [k, id] of clipIds.entries()) {
        const clip = await wholeClip(parts, id);
        for (const form of forms) mustLeave(clip.clip, form);
        wanted.push(...forms.map((form) => exportJob(clip, form, k + 1, clipIds.length)));
      }
      answer(202, await queue(wanted));
    },
  );

  api.route(
    {
      method: 'post',
      path: '/films',
      summary: 'Queue a film: clips of an outing in order, as one file',
      body: filmRequest,
      answers: { 202: z.array(jobSchema) },
    },
    async ({ body, answer }) => {
      await mustEncode(body.delivery);
      answer(202, await queue([await filmJob(parts, body)]));
    },
  );

  api.route(
    {
      method: 'post',
      path: '/documents',
      summary: 'Queue a report, a contact sheet or a timeline of an outing',
      body: documentRequest,
      answers: { 202: z.array(jobSchema) },
    },
    async ({ body, answer }) => answer(202, await queue([await documentJob(parts, body)])),
  );

  api.route(
    { method: 'get', path: '/presets', summary: 'Settings that were kept', answers: { 200: z.array(presetSchema) } },
    async ({ answer }) => answer(200, await presets.list()),
  );
  api.route(
    {
      method: 'post',
      path: '/presets',
      summary: 'Keep settings of exports under a name',
      body: presetRequest,
      answers: { 201: presetSchema },
    },
    async ({ body, answer }) => answer(201, await presets.keep(body)),
  );
  api.route(
    {
      method: 'delete',
      path: '/presets/{id}',
      summary: 'Forget settings',
      params: z.object({ id: idSchema }),
      answers: { 204: null },
    },
    async ({ params, answer }) => {
      await presets.forget(params.id);
      answer(204);
    },
  );
}
