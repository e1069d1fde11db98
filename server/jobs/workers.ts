import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream, existsSync, renameSync, rmSync, statSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { MediaError, probe } from '@inkavo/media/codec';
import { exportClip } from '@inkavo/media/export/exportClip';
import { makeProxy, makeStrip } from '@inkavo/media/frames/proxy';
import type { Library } from '../config';
import type { Events } from '../events';
import type { ClipStore } from '../stores/clips';
import type { JobStore } from '../stores/jobs';
import type { LutStore } from '../stores/luts';
import type { OutingStore } from '../stores/outings';
import type { Work, Workers } from './runner';

export interface WorkerParts {
  library: Library;
  outings: OutingStore;
  clips: ClipStore;
  jobs: JobStore;
  luts: LutStore;
  events: Events;
  wake: () => void;
}

/** Makes sure that a finished file is on the disk, not only in memory. */
async function sync(path: string): Promise<void> {
  const file = await open(path, 'r');
  await file.sync();
  await file.close();
}

/** Copies a file and gives its SHA-256. The copy is whole and on the disk when this resolves. */
async function copyHashed(
  from: string,
  to: string,
  { signal, progress }: Pick<Work, 'signal' | 'progress'>,
): Promise<string> {
  const { size } = statSync(from);
  const hash = createHash('sha256');
  let done = 0;
  let told = 0;
  const watch = new Transform({
    transform(chunk: Buffer, _encoding, next) {
      hash.update(chunk);
      done += chunk.length;
      if (done - told > size / 50) {
        told = done;
        progress((0.9 * done) / size);
      }
      next(null, chunk);
    },
  });
  await pipeline(createReadStream(from), watch, createWriteStream(to), { signal });
  await sync(to);
  return hash.digest('hex');
}

function explainFileError(error: unknown, from: string): unknown {
  const { code } = error as NodeJS.ErrnoException;
  if (code === 'ENOSPC')
    return new MediaError('There is no room left on the disk. Nothing was brought in; the original is untouched.');
  if (code === 'ENOENT' && !existsSync(from))
    return new MediaError('The file is not there any more: was the card taken out?');
  return error;
}

/** The work behind each kind of job. */
export function makeWorkers({ library, outings, clips, jobs, luts, events, wake }: WorkerParts): Workers {
  return {
    async import({ job, payload, signal, progress }) {
      const part = library.incoming(job.id);
      try {
        const hash = await copyHashed(payload.from, part, { signal, progress });
        const known = await clips.media(hash);
        if (!known) {
          const found = await probe(part, signal);
          renameSync(part, library.original(hash));
          await clips.addMedia(hash, statSync(library.original(hash)).size, found);
        }
        const camera = await outings.cameraNamed(payload.outingId, payload.camera);
        const { clip, isNew } = await clips.add(payload.outingId, camera.id, payload.name, hash);
        if (payload.move) rmUpload(payload.from);
        if (clip.proxy !== 'ready') {
          await jobs.add({
            payload: { kind: 'proxy', hash },
            title: clip.name,
            outingId: clip.outingId,
            clipId: clip.id,
          });
          wake();
        }
        events.send({ type: 'outing', id: clip.outingId });
        return { clipId: clip.id, ...(isNew ? {} : { message: 'This file was here already.' }) };
      } catch (error) {
        throw explainFileError(error, payload.from);
      } finally {
        rmSync(part, { force: true });
      }
    },

    async proxy({ payload: { hash }, signal }) {
      const media = await clips.media(hash);
      if (!media) throw new MediaError('The file is not there any more.');
      const source = { path: library.original(hash), facts: media.facts, times: media.times };
      try {
        if (!existsSync(library.proxy(hash))) await makeProxy(source, library.proxy(hash), signal);
        await makeStrip(source, library.proxy(hash), library.strip(hash), signal);
      } catch (error) {
        if (!signal.aborted) await clips.setProxy(hash, 'failed');
        throw error;
      }
      for (const id of await clips.setProxy(hash, 'ready')) events.send({ type: 'outing', id });
      return {};
    },

    async export({ job, payload, signal, progress }) {
      const media = await clips.media(payload.hash);
      if (!media || !job.file) throw new MediaError('The file is not there any more.');
      const output = library.export(job.file.name);
      await luts.provide(payload.steps);
      const frames = await exportClip({
        source: { path: library.original(payload.hash), facts: media.facts, times: media.times },
        steps: payload.steps,
        delivery: payload.delivery,
        inFrame: payload.inFrame,
        outFrame: payload.outFrame,
        output,
        signal,
        onProgress: (done, all) => progress(Math.min(1, done / all)),
      });
      await sync(output);
      const wanted = payload.outFrame - payload.inFrame + 1;
      const fileBytes = statSync(output).size;
      // A damaged original is delivered as far as it goes, and that is said.
      return frames < wanted
        ? { fileBytes, message: `Only ${frames} of ${wanted} frames could be decoded: the original is damaged.` }
        : { fileBytes };
    },
  };
}

/** Removes a finished upload with the note the upload store keeps beside it. */
function rmUpload(path: string): void {
  rmSync(path, { force: true });
  rmSync(`${path}.json`, { force: true });
}
