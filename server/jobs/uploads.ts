import { readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { z } from 'zod';
import type { Job } from '@inkavo/core/model/job';
import type { Library } from '../config';
import type { JobStore } from '../stores/jobs';

/** The note that the upload store keeps beside an upload. */
const noteSchema = z.object({
  id: z.string().regex(/^[\w-]{1,64}$/),
  size: z.number(),
  metadata: z.record(z.string(), z.string().nullable()).default({}),
});
type Metadata = Record<string, string | null | undefined>;

/** Uploads that have arrived, on their way into the library. */
export class Uploads {
  constructor(
    private readonly library: Library,
    private readonly jobs: JobStore,
  ) {}

  /** Queues the import of an upload that is whole. The job has the upload's id, so that a repeat adds nothing. */
  finished(id: string, metadata: Metadata, size?: number): Promise<Job> {
    const name = basename(metadata.filename ?? 'clip').slice(0, 120);
    const outingId = String(metadata.outing);
    const payload = {
      kind: 'import',
      outingId,
      from: join(this.library.uploads, id),
      ...(size === undefined ? {} : { bytes: size }),
      move: true,
      name,
      camera: metadata.camera?.trim().slice(0, 100) || null,
    } as const;
    return this.jobs.add({ id, payload, title: name, outingId });
  }

  /**
   * After a crash: an upload that is whole gets its import, should that not be stored, and one whose import is done is
   * removed. What has not arrived in full stays, to be gone on with.
   */
  async recover(): Promise<void> {
    for (const file of readdirSync(this.library.uploads).filter((name) => name.endsWith('.json'))) {
      const note = noteSchema.safeParse(readNote(join(this.library.uploads, file)));
      if (!note.success) continue;
      const { id, size, metadata } = note.data;
      const path = join(this.library.uploads, id);
      const state = await this.jobs.stateOf(id);
      if (state === 'done') this.library.removeUpload(path);
      else if (state === undefined && statSync(path, { throwIfNoEntry: false })?.size === size)
        await this.finished(id, metadata, size);
    }
  }
}

function readNote(path: string): unknown {
  try {
    return JSON.parse(readFileSync(path, 'utf8'));
  } catch {
    return undefined;
  }
}
