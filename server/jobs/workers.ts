import { createHash } from 'node:crypto';
import { createReadStream, existsSync, readFileSync, renameSync, rmSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { readDives } from '@inkavo/core/formats/diveLog';
import { deliveredRetime } from '@inkavo/core/model/delivery';
import type { Job } from '@inkavo/core/model/job';
import { usualFrame } from '@inkavo/core/model/outing';
import { PICTURES_SHARE } from '@inkavo/core/model/proxyParts';
import type { Retime } from '@inkavo/core/model/retime';
import type { ClipDive } from '@inkavo/core/model/diveLog';
import { MediaError, probe } from '@inkavo/media/codec';
import { joinChapters } from '@inkavo/media/codec/join';
import { exportClip } from '@inkavo/media/export/exportClip';
import { makeFilm, type FilmShot } from '@inkavo/media/export/film';
import type { Source } from '@inkavo/media/frames/rest';
import { makeProxy, partsMade } from '@inkavo/media/frames/makeProxy';
import { representativeFrame } from '@inkavo/media/reading/representativeFrame';
import { documentOf } from '@inkavo/media/documents';
import { writeWhole } from '@inkavo/media/files';
import type { Library } from '../config';
import type { Events } from '../events';
import { isDiskFull, NoSpace, type DiskSpace } from '../diskSpace';
import type { ClipStore } from '../stores/clips';
import type { JobStore } from '../stores/jobs';
import { proxyJob } from '../stores/newJob';
import type { ShelfStore } from '../stores/shelf';
import type { OutingStore } from '../stores/outings';
import { outlineOf } from '../deliveries';
import { HttpError } from '../http/problems';
import type { Proxies } from '../proxies';
import type { Sources } from '../sources';
import type { Strips } from '../strips';
import type { Thumbs } from '../thumbs';
import { copyHashed, linkHashed, sync } from './copyHashed';
import { copyInto } from './copyInto';
import { renderClip } from './render';
import type { OnGivenUp, Outcome, Workers } from './runner';

export interface WorkerParts {
  library: Library;
  outings: OutingStore;
  clips: ClipStore;
  jobs: JobStore;
  shelf: ShelfStore;
  sources: Sources;
  thumbs: Thumbs;
  strips: Strips;
  proxies: Proxies;
  events: Events;
  disk: DiskSpace;
  /** The program that renders the demo's footage, if there is one. */
  renderer: string | undefined;
  wake: () => void;
}

function explainFileError(error: unknown, from: string): unknown {
  if (isDiskFull(error))
    return new MediaError('There is no room left on the disk. Nothing was brought in; the original is untouched.');
  if ((error as NodeJS.ErrnoException).code === 'ENOENT' && !existsSync(from))
    return new MediaError('The file is not there any more: was the card taken out?');
  return error;
}

/** A dive log from a file, and the clip's offset in it. */
function diveFrom(dive: { log: string; offset: number } | undefined): ClipDive | undefined {
  if (!dive || !existsSync(dive.log)) return undefined;
  const [log] = readDives(readFileSync(dive.log, 'utf8'), basename(dive.log));
  return { log, offset: dive.offset };
}

const joinedOf = (chapters: number): string | undefined =>
  chapters > 1 ? `${chapters} chapters were joined.` : undefined;

/** Name of the camera for files without one. */
const UNNAMED_CAMERA = 'Camera';

/** Bytes of an export per byte of the original: rough estimates; disk space is monitored anyway. */
const GROWTH = { h264: 2, h265: 2, h265x8: 2, av1: 2, vc3: 8, ffv1: 12 } as const;

/** Implementation of each kind of job. */
export function makeWorkers({
  library,
  outings,
  clips,
  jobs,
  shelf,
  sources,
  thumbs,
  strips,
  proxies,
  events,
  disk,
  renderer,
  wake,
}: WorkerParts): Workers {
  const sourceOf = async (hash: string): Promise<Source> => {
    const media = await clips.media(hash);
    const path = library.original(hash);
    if (!media || !existsSync(path)) throw new MediaError('The file is not there any more.');
    return { path, facts: media.facts, times: media.times, keys: media.keys };
  };
  /** Bytes for a part of an original; slow motion has more frames than were recorded. */
  const bytesOf = (hash: string, share: number, retime: Retime | undefined): number =>
    statSync(library.original(hash)).size * share * Math.max(1, 1 / (retime?.factor ?? 1));
  /** Completes a finished file: if all are also copied to a folder, the copy is queued in the same transaction. */
  const delivered = (job: Job, made: Outcome): Outcome => ({
    ...made,
    async commit(trx) {
      const { into } = await jobs.queue(trx);
      const name = fileNameOf(job);
      if (into) await jobs.insert({ payload: { kind: 'copy', name, into }, title: name }, trx);
    },
    after: wake,
  });
  return {
    async import({ job, payload, signal, progress }) {
      const part = library.incoming(job.id);
      const { outingId, name, from, more = [] } = payload;
      const joined = join(library.temporary, `${job.id}.joined`);
      try {
        const paths = [from, ...more];
        if (!paths.every((path) => existsSync(path)))
          throw new MediaError('The file is not there any more: was the card taken out?');
        const bytesNeeded = paths.reduce((sum, path) => sum + statSync(path).size, 0);
        // An upload is already on this disk.
        await disk.need(payload.move && more.length === 0 ? 0 : bytesNeeded);
        if (more.length)
          await joinChapters(paths, joined, { names: payload.names ?? paths.map((p) => basename(p)), signal });
        const work = { signal, progress };
        const hash = await (more.length
          ? linkHashed(joined, part, work)
          : (payload.move ? linkHashed : copyHashed)(from, part, work));
        const bytes = statSync(part).size;
        const probed = (await clips.media(hash)) ? undefined : await probe(part, signal);
        // Named by its content, it may be left from an attempt that crashed.
        if (!existsSync(library.original(hash))) renameSync(part, library.original(hash));
        const begin = { steps: payload.begin?.steps, dive: diveFrom(payload.begin?.dive) };
        const facts = probed?.facts ?? (await clips.media(hash))?.facts;
        const called = payload.camera ?? facts?.camera ?? UNNAMED_CAMERA;
        const camera = await outings.cameraNamed(outingId, called, payload.cameraKind);
        return {
          async commit(trx) {
            const file = { hash, bytes, probed, outingId, cameraId: camera.id, name, begin };
            const { clip, isNew } = await clips.takeIn(file, trx);
            if (clip.proxy !== 'ready') {
              await clips.setProxy(hash, 'waiting', trx);
              await jobs.insert(proxyJob(hash, clip), trx);
            }
            const said = isNew ? joinedOf(paths.length) : 'This file was here already.';
            return { clipId: clip.id, ...(said ? { message: said } : {}) };
          },
          after() {
            // The first chapter last: until it is deleted, a restart finds its chapters.
            if (payload.move) [...more, from].forEach((path) => library.removeUpload(path));
            wake();
            events.send({ type: 'outing', id: outingId });
          },
        };
      } catch (error) {
        throw explainFileError(error, from);
      } finally {
        rmSync(part, { force: true });
        rmSync(joined, { force: true });
      }
    },

    async render({ job, payload: { intake }, signal, progress }) {
      if (!renderer) throw new MediaError('The program that renders the demo is not here.');
      await disk.need(0);
      if (!existsSync(intake.from)) await renderClip(renderer, intake.from, { signal, progress });
      return {
        async commit(trx) {
          await jobs.insert({ payload: intake, title: job.title, outingId: intake.outingId }, trx);
        },
        after: wake,
      };
    },

    async proxy({ job, payload: { hash }, signal, progress }) {
      const source = await sourceOf(hash);
      const { frames } = source.facts;
      const output = library.proxy(hash);
      await disk.need(0);
      const made = existsSync(output) ? frames : partsMade(output).reduce((sum, { count }) => sum + count, 0);
      if (!existsSync(output)) {
        let goesOn = false;
        try {
          goesOn = !(await makeProxy(source, output, {
            signal,
            onProgress: (n) => progress((PICTURES_SHARE * n) / frames),
            breaksOff: () => jobs.isOvertaken(job.id),
            wanted: () => proxies.wanted(hash),
            onBegun: (part, breakOff) => proxies.begun(hash, part, breakOff),
            onMade: () => proxies.made(hash),
          }));
        } catch (error) {
          // Without disk space, partial results are deleted.
          if ((signal.reason ?? error) instanceof NoSpace) library.removeParts(hash);
          throw error;
        } finally {
          proxies.ended(hash, goesOn);
        }
        if (goesOn) return { waits: true };
      }
      await strips.of(hash, signal);
      const usual = usualFrame(frames);
      const stands = await representativeFrame(source, { proxy: output, usual }, signal);
      let shownIn: string[] = [];
      return {
        share: 1 - made / frames,
        async commit(trx) {
          if (stands !== usual) await clips.setStanding(hash, stands, trx);
          shownIn = await clips.setProxy(hash, 'ready', trx);
        },
        after() {
          // From now on pages play the complete proxy.
          library.removeParts(hash);
          shownIn.forEach((id) => events.send({ type: 'outing', id }));
          thumbs.drawAhead(hash);
        },
      };
    },

    async export({ job, payload, signal, progress }) {
      const source = await sourceOf(payload.hash);
      const output = library.export(fileNameOf(job));
      const wanted = payload.outFrame - payload.inFrame + 1;
      const retime = deliveredRetime(payload.retime, payload.delivery);
      await disk.need(bytesOf(payload.hash, wanted / source.facts.frames, retime) * GROWTH[payload.delivery.codec]);
      const frames = await exportClip({
        source,
        steps: payload.steps,
        luts: await shelf.textsFor(payload.steps),
        delivery: payload.delivery,
        inFrame: payload.inFrame,
        outFrame: payload.outFrame,
        retime: payload.retime,
        output,
        work: library.temporary,
        signal,
        onProgress: (done, all) => progress(Math.min(1, done / all), all),
      });
      const made = await finished(output, signal);
      // A damaged original is delivered as far as possible, with a note.
      return delivered(
        job,
        frames < wanted
          ? { ...made, message: `Only ${frames} of ${wanted} frames could be decoded: the original is damaged.` }
          : made,
      );
    },

    async film({ job, payload, signal, progress }) {
      const output = library.export(fileNameOf(job));
      const { delivery, dissolve, levelled } = payload;
      const shots: FilmShot[] = [];
      let bytes = 0;
      for (const shot of payload.shots) {
        const source = await sourceOf(shot.hash);
        const share = (shot.outFrame - shot.inFrame + 1) / source.facts.frames;
        bytes += bytesOf(shot.hash, share, deliveredRetime(shot.retime, delivery)) * GROWTH[delivery.codec];
        shots.push({ ...shot, source, luts: await shelf.textsFor(shot.steps) });
      }
      await disk.need(bytes);
      const { damaged } = await makeFilm({
        ...{ shots, delivery, dissolve, levelled, output, signal },
        work: library.temporary,
        onProgress: (done, all) => progress(Math.min(1, done / all), all),
      });
      const made = await finished(output, signal);
      if (damaged.length === 0) return delivered(job, made);
      const which = damaged.map((d) => `clip ${d.shot + 1} (${d.decoded} of ${d.of})`).join(', ');
      return delivered(job, {
        ...made,
        message: `Not all frames could be decoded of ${which}: the last one stands for the rest.`,
      });
    },

    async document({ job, payload, signal, progress }) {
      await disk.need(0);
      // The clip may have been removed while this was queued.
      const outline = await outlineOf({ clips, outings, shelf, library }, job.outingId ?? '', payload.clipIds).catch(
        (error: unknown) => {
          throw error instanceof HttpError ? new MediaError(error.message) : error;
        },
      );
      const output = library.export(fileNameOf(job));
      writeWhole(
        output,
        await documentOf(payload.form, outline, { dissolve: payload.dissolve, signal, onProgress: progress }),
      );
      return delivered(job, { fileBytes: statSync(output).size });
    },

    async copy({ job, payload: { name, into }, signal, progress }) {
      const folder = await sources.target(into).catch((error: unknown) => {
        throw error instanceof HttpError ? new MediaError(`${error.message} ${name} is still here.`) : error;
      });
      const from = library.export(name);
      const path = await copyInto(from, { folder: folder.path, name, id: job.id }, { signal, progress });
      return { message: `It lies in ${path}.` };
    },
  };
}

function fileNameOf(job: Job): string {
  if (!job.file) throw new MediaError('This export has no name.');
  return job.file.name;
}

/** Properties of a finished file, which is synced when this resolves. */
async function finished(output: string, signal: AbortSignal): Promise<Pick<Outcome, 'fileBytes' | 'result'>> {
  await sync(output);
  const { facts } = await probe(output, signal);
  const hash = createHash('sha256');
  await pipeline(createReadStream(output), hash, { signal });
  const { frames, durationSeconds: seconds, width, height } = facts;
  return { fileBytes: statSync(output).size, result: { frames, seconds, width, height, sha256: hash.digest('hex') } };
}

/** A proxy that failed or was stopped is marked so on its clips. */
export const onGivenUp =
  ({ clips, events }: Pick<WorkerParts, 'clips' | 'events'>): OnGivenUp =>
  async (payload, trx) => {
    if (payload.kind !== 'proxy') return;
    for (const id of await clips.setProxy(payload.hash, 'failed', trx)) events.send({ type: 'outing', id });
  };
