import type { z } from 'zod';
import type { CardFile, Delivery, Job } from '@inkavo/core/model/job';
import type { LutEntry } from '@inkavo/core/model/lut';
import type { Camera, Clip, clipPatch, GradeChange, Outing, outingRequest, Owner } from '@inkavo/core/model/outing';

/** An answer that was no success; `message` is a sentence for a person. Status 0: the server cannot be reached. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

async function ask(path: string, init?: RequestInit): Promise<Response> {
  let res: Response;
  try {
    res = await fetch(`/api${path}`, init);
  } catch (error) {
    if ((error as Error).name === 'AbortError') throw error;
    throw new ApiError(0, 'The server cannot be reached. What was kept is safe; this works again when it is back.');
  }
  if (res.ok) return res;
  const body = (await res.json().catch(() => ({}))) as { error?: string };
  throw new ApiError(res.status, body.error ?? `The server answered ${res.status}.`);
}

const get = async <T>(path: string): Promise<T> => (await ask(path)).json() as Promise<T>;
const send = async <T>(method: string, path: string, body?: unknown, init?: RequestInit): Promise<T> => {
  const res = await ask(path, {
    method,
    headers: { 'Content-Type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    ...init,
  });
  return (res.status === 204 ? undefined : await res.json()) as T;
};

export interface OutingListed extends Outing {
  clipCount: number;
  clips: Pick<Clip, 'id' | 'revision' | 'referenceFrame'>[];
}
export interface OutingOpened {
  outing: Outing;
  cameras: Camera[];
  clips: Clip[];
  /** Files that are on their way in, or did not make it. */
  intake: Job[];
}
export interface ClipOpened {
  clip: Clip;
  camera: Camera;
  outing: Outing;
}

/** The server's routes, typed. */
export const api = {
  outings: () => get<OutingListed[]>('/outings'),
  outing: (id: string) => get<OutingOpened>(`/outings/${id}`),
  newOuting: (request: z.input<typeof outingRequest>) => send<Outing>('POST', '/outings', request),
  demo: () => send<{ outing: Outing }>('POST', '/demo'),
  card: () => get<{ present: boolean; files: CardFile[] }>('/card'),
  importFromCard: (outingId: string, paths: string[]) => send<Job[]>('POST', `/outings/${outingId}/import`, { paths }),
  clip: (id: string) => get<ClipOpened>(`/clips/${id}`),
  changeClip: (id: string, patch: z.infer<typeof clipPatch>) => send<Clip>('PATCH', `/clips/${id}`, patch),
  keepSteps: (id: string, change: GradeChange, init?: RequestInit) =>
    send<{ revisions: Partial<Record<Owner, number>> }>('PUT', `/clips/${id}/steps`, change, init),
  luts: () => get<LutEntry[]>('/luts'),
  lutText: async (id: string) => (await ask(`/luts/${id}`)).text(),
  /** Brings a `.cube` or CLF file in. */
  addLut: (file: File) =>
    send<LutEntry>('POST', `/luts?name=${encodeURIComponent(file.name)}`, undefined, {
      headers: { 'Content-Type': 'text/plain' },
      body: file,
    }),
  jobs: () => get<Job[]>('/jobs'),
  deliver: (clipIds: string[], delivery: Partial<Delivery> & Pick<Delivery, 'codec'>) =>
    send<Job[]>('POST', '/deliveries', { clipIds, delivery }),
  stopJob: (id: string) => send<Job>('POST', `/jobs/${id}/stop`),
  jobAgain: (id: string) => send<Job>('POST', `/jobs/${id}/again`),
  removeJob: (id: string) => send<void>('DELETE', `/jobs/${id}`),
  /** A frame at rest, as bytes of 16-bit planes, and its size. */
  async frame(clipId: string, frame: number, width: number, signal: AbortSignal) {
    const res = await ask(`/clips/${clipId}/frame?frame=${frame}&width=${width}`, { signal });
    return {
      buffer: await res.arrayBuffer(),
      width: Number(res.headers.get('X-Frame-Width')),
      height: Number(res.headers.get('X-Frame-Height')),
    };
  },
};

export const thumbUrl = (
  clip: Pick<Clip, 'id' | 'revision' | 'referenceFrame'>,
  graded: boolean,
  width = 320,
): string =>
  `/api/clips/${clip.id}/thumb.jpg?width=${width}&graded=${graded ? 1 : 0}&v=${clip.revision}.${clip.referenceFrame}`;
export const proxyUrl = (clipId: string): string => `/api/clips/${clipId}/proxy.mp4`;
export const stripUrl = (clipId: string): string => `/api/clips/${clipId}/strip.jpg`;
export const jobFileUrl = (jobId: string): string => `/api/jobs/${jobId}/file`;
