import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { z } from 'zod';
import type { Job } from '@inkavo/core/model/job';
import { CAMERA_KINDS } from '@inkavo/core/model/outing';
import type { Library } from '../config';
import type { JobStore } from '../stores/jobs';

/** Abandoned uploads are removed after this time. */
export const UPLOAD_EXPIRES_MS = 14 * 86_400_000;

const uploadIdSchema = z.string().regex(/^[\w-]{1,64}$/);
/** Optional text from a client. */
const text = (max: number) =>
  z
    .string()
    .nullish()
    .transform((value) => value?.trim().slice(0, max) || undefined);

/** Metadata of an upload. */
export const uploadMetadata = z.object({
  filename: z.string().min(1),
  outing: z.string().min(1),
  /** Its camera's name; omitted: from its tags. */
  camera: text(100),
  /** The kind of a new camera. */
  kind: z.enum(CAMERA_KINDS).optional().catch(undefined),
  /** Number of chapters in its recording, and its index. */
  chapters: z.coerce.number().int().min(1).max(200).default(1),
  chapter: z.coerce.number().int().min(0).default(0),
  /** The upload of the first chapter, in each that follows it. */
  first: uploadIdSchema.optional().catch(undefined),
});

/** The upload store's metadata file. */
const noteSchema = z.object({ id: uploadIdSchema, size: z.number(), metadata: uploadMetadata });
type Note = z.infer<typeof noteSchema>;

/** Completed uploads on their way into the library. */
export class Uploads {
  constructor(
    private readonly library: Library,
    private readonly jobs: JobStore,
  ) {}

  /**
   * Queues the import of a completed upload; of chapters once all are complete, joined. The job has the id of the
   * (first) upload, so that a retry adds nothing. Undefined: chapters are missing.
   */
  async finished(id: string): Promise<Job | undefined> {
    const note = this.note(id);
    const first = note?.metadata.first ? this.note(note.metadata.first) : note;
    if (!first) return undefined;
    const { filename, outing: outingId, camera, kind, chapters } = first.metadata;
    // A chapter uploaded twice counts once.
    const more = chapters > 1 ? this.notes().filter((n) => n.metadata.first === first.id) : [];
    const whole = Array.from({ length: chapters }, (_, i) =>
      i === 0 ? first : more.find((n) => n.metadata.chapter === i && this.isWhole(n)),
    ).filter((n) => n !== undefined);
    if (whole.length < chapters || !this.isWhole(first)) return undefined;
    const name = nameOf(filename);
    const payload = {
      kind: 'import',
      outingId,
      from: this.path(first),
      ...(chapters > 1
        ? { more: whole.slice(1).map(this.path), names: whole.map((n) => nameOf(n.metadata.filename)) }
        : {}),
      bytes: whole.reduce((sum, n) => sum + n.size, 0),
      move: true,
      name,
      camera: camera ?? null,
      ...(kind ? { cameraKind: kind } : {}),
    } as const;
    return this.jobs.add({ id: first.id, payload, title: name, outingId });
  }

  /**
   * After a crash: completed uploads are queued if they were not, and imported ones are removed. Incomplete ones stay
   * and can be resumed.
   */
  async recover(): Promise<void> {
    this.sweep();
    for (const note of this.notes()) {
      const state = await this.jobs.stateOf(note.metadata.first ?? note.id);
      if (state === 'done') this.library.removeUpload(this.path(note));
      else if (state === undefined && this.isWhole(note) && !(await this.finished(note.id))) this.forgetOld(note);
    }
  }

  /**
   * Removes uploads that cannot be resumed: the program crashed before the metadata was complete, or between file and
   * metadata.
   */
  private sweep(): void {
    const { uploads } = this.library;
    const ids = new Set(readdirSync(uploads).map((name) => basename(name, '.json')));
    for (const id of ids)
      if (!existsSync(join(uploads, id)) || !this.isNoted(id)) this.library.removeUpload(join(uploads, id));
  }

  private isNoted(id: string): boolean {
    try {
      JSON.parse(readFileSync(join(this.library.uploads, `${id}.json`), 'utf8'));
      return true;
    } catch {
      return false;
    }
  }

  /** A chapter whose others never arrived. Incomplete ones are removed by the upload store. */
  private forgetOld(note: Note): void {
    const age = Date.now() - (statSync(this.path(note), { throwIfNoEntry: false })?.mtimeMs ?? Date.now());
    if (age > UPLOAD_EXPIRES_MS) this.library.removeUpload(this.path(note));
  }

  private path = ({ id }: Pick<Note, 'id'>): string => join(this.library.uploads, id);

  private isWhole = (note: Note): boolean => statSync(this.path(note), { throwIfNoEntry: false })?.size === note.size;

  private notes(): Note[] {
    const names = readdirSync(this.library.uploads).filter((name) => name.endsWith('.json'));
    return names.flatMap((name) => this.note(basename(name, '.json')) ?? []);
  }

  private note(id: string): Note | undefined {
    try {
      return noteSchema.safeParse(JSON.parse(readFileSync(join(this.library.uploads, `${id}.json`), 'utf8'))).data;
    } catch {
      return undefined;
    }
  }
}

const nameOf = (filename: string): string => basename(filename).slice(0, 120);
