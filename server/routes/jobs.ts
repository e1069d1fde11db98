import { existsSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { ZipFile } from 'yazl';
import { z } from 'zod';
import { jobSchema, jobsRequest, queueSchema } from '@inkavo/core/model/job';
import { idSchema } from '@inkavo/core/model/outing';
import type { Api } from '../http/api';
import { HttpError } from '../http/problems';
import type { Parts } from '../parts';

const one = z.object({ id: idSchema });

/** Deliveries and other long-running work: queue, stop, retry, download, remove. */
export function jobRoutes(api: Api, { jobs, clips, library, sources, runner, events }: Parts): void {
  api.route(
    { method: 'get', path: '/jobs', summary: 'Exports, and intake under way', answers: { 200: z.array(jobSchema) } },
    async ({ answer }) => answer(200, runner.withTimes(await jobs.list())),
  );

  api.route(
    {
      method: 'get',
      path: '/queue',
      summary: 'Whether the queue of exports begins new ones, and the folder that finished files are also put into',
      answers: { 200: queueSchema },
    },
    async ({ answer }) => answer(200, await jobs.queue()),
  );

  api.route(
    {
      method: 'put',
      path: '/queue',
      summary: 'Pause the queue of exports, or let it go on; what runs comes to its end. Choose the folder, or none',
      body: queueSchema.partial(),
      answers: { 200: queueSchema },
    },
    async ({ body, answer }) => {
      if (body.into) await sources.target(body.into);
      const queue = await jobs.setQueue(body);
      events.send({ type: 'jobs' });
      runner.wake();
      answer(200, queue);
    },
  );

  api.route(
    {
      method: 'patch',
      path: '/jobs/{id}',
      summary: 'Put a job at another place among those of its kind',
      params: one,
      body: z.object({ rank: z.number() }),
      answers: { 200: jobSchema },
    },
    async ({ params, body, answer }) => {
      const job = await jobs.move(params.id, body.rank);
      events.send({ type: 'jobs' });
      answer(200, job);
    },
  );

  // Names are sanitised on input, so an entry is a plain file name; encoded files do not compress further.
  api.route(
    {
      method: 'get',
      path: '/jobs/archive.zip',
      summary: 'Finished files as one archive: some, or all that are listed',
      query: z.object({ ids: z.string().min(1).max(40_000).optional() }),
      answers: { 200: { type: 'application/zip', holds: 'The files.' } },
    },
    async ({ query, res }) => {
      const zip = new ZipFile();
      const found = query.ids
        ? await Promise.all(query.ids.split(',').map((id) => jobs.get(id)))
        : (await jobs.list()).filter((job) => job.kind === 'export');
      const ready = found.filter((job) => job.state === 'done' && job.file);
      if (ready.length === 0) throw new HttpError(404, 'not-found', 'None of these files is finished.');
      const gone = ready.filter(({ file }) => !existsSync(library.export(file!.name))).map(({ file }) => file!.name);
      if (gone.length > 0)
        throw new HttpError(404, 'not-found', `${gone.join(', ')} is not here any more. Remove it from the list.`);
      // A file deleted meanwhile aborts the archive; without a listener it would crash the server.
      zip.on('error', () => res.destroy());
      for (const { file } of ready) zip.addFile(library.export(file!.name), file!.name, { compress: false });
      zip.end();
      res.attachment('exports.zip').type('zip');
      await pipeline(zip.outputStream, res).catch(() => res.destroy());
    },
  );

  api.route(
    {
      method: 'post',
      path: '/jobs/{id}/copy',
      summary: 'Put a finished file into a folder of the server’s machine besides',
      params: one,
      body: z.object({ into: idSchema }),
      answers: { 202: jobSchema },
    },
    async ({ params, body, answer }) => {
      const { state, file } = await jobs.get(params.id);
      if (state !== 'done' || !file) throw new HttpError(404, 'not-found', 'This file is not finished.');
      await sources.target(body.into);
      const job = await jobs.add({ payload: { kind: 'copy', name: file.name, into: body.into }, title: file.name });
      events.send({ type: 'job', job });
      runner.wake();
      answer(202, job);
    },
  );

  api.route(
    { method: 'post', path: '/jobs/{id}/stop', summary: 'Stop a job', params: one, answers: { 200: jobSchema } },
    async ({ params, answer }) => answer(200, await runner.stop(params.id)),
  );

  const again = async (ids: readonly string[]): Promise<void> => {
    const shownIn = new Set<string>();
    await jobs.again(ids, async (payload, trx) => {
      if (payload.kind !== 'proxy') return;
      for (const id of await clips.setProxy(payload.hash, 'waiting', trx)) shownIn.add(id);
    });
    for (const id of shownIn) events.send({ type: 'outing', id });
    runner.wake();
  };

  api.route(
    {
      method: 'post',
      path: '/jobs/{id}/again',
      summary: 'Try again what ended without success',
      params: one,
      answers: { 200: jobSchema },
    },
    async ({ params, answer }) => {
      await again([params.id]);
      const job = await jobs.get(params.id);
      events.send({ type: 'job', job });
      answer(200, job);
    },
  );

  /** Throws a 409 {@link HttpError} if a job cannot be forgotten, and then forgets none. */
  const forget = async (ids: readonly string[]): Promise<void> => {
    const payloads = [];
    for (const id of ids) {
      const { state, file } = await jobs.get(id);
      if (state === 'waiting' || state === 'running') throw new HttpError(409, 'not-possible', 'Stop it first.');
      if (state === 'done' && file)
        throw new HttpError(
          409,
          'not-possible',
          'A finished file is removed so that it can be put back: use /removed.',
        );
      payloads.push(await jobs.payload(id));
    }
    for (const payload of payloads) if (payload.kind === 'import' && payload.move) library.removeUpload(payload.from);
    await jobs.remove(ids);
  };

  api.route(
    {
      method: 'delete',
      path: '/jobs/{id}',
      summary: 'Forget a job that ended without a file',
      params: one,
      answers: { 204: null },
    },
    async ({ params, answer }) => {
      await forget([params.id]);
      answer(204);
    },
  );

  api.route(
    {
      method: 'post',
      path: '/jobs/together',
      summary: 'Stop several jobs, try them again or forget them; what has another state stays as it is',
      body: jobsRequest,
      answers: { 204: null },
    },
    async ({ body: { ids, act }, answer }) => {
      const found = await jobs.some(ids);
      if (act === 'stop') await runner.stopAll(ids);
      else if (act === 'again') await again(ids);
      else await forget(found.filter((j) => j.state === 'failed' || j.state === 'stopped').map((j) => j.id));
      for (const id of new Set(found.map((j) => j.outingId))) if (id) events.send({ type: 'outing', id });
      events.send({ type: 'jobs' });
      answer(204);
    },
  );

  api.route(
    {
      method: 'get',
      path: '/jobs/{id}/file',
      summary: 'The file that an export made',
      params: one,
      answers: { 200: { type: 'application/octet-stream', holds: 'The file.' } },
    },
    async ({ params, res }) => {
      const job = await jobs.get(params.id);
      if (job.state !== 'done' || !job.file) throw new HttpError(404, 'not-found', 'This file is not finished.');
      res.download(library.export(job.file.name), job.file.name, { dotfiles: 'allow' });
    },
  );
}
