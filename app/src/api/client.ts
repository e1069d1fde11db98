import type { GradeFile, GradeFileRequest } from '@inkavo/core/formats/gradeFile';
import type { z } from 'zod';
import type { Codec, Delivery, DeliveryRequest } from '@inkavo/core/model/delivery';
import type { documentRequest } from '@inkavo/core/model/document';
import type { filmRequest } from '@inkavo/core/model/film';
import type { Expected, Job, JobsRequest, Preset, Queue } from '@inkavo/core/model/job';
import type { importRequest, Source, SourceContent } from '@inkavo/core/model/source';
import type { ClipDive, DiveLog } from '@inkavo/core/model/diveLog';
import type { Step } from '@inkavo/core/model/grade';
import type { FirstPass } from '@inkavo/core/reading/firstPass';
import type { FileReading } from '@inkavo/core/reading/fileReading';
import type { Setting } from '@inkavo/core/reading/settings';
import type { Match } from '@inkavo/core/match/matchTo';
import type { FollowAnswer } from '@inkavo/core/follow/stretch';
import type { Pose, ShapeKind } from '@inkavo/core/regions/shape';
import type { PredictedNoise } from '@inkavo/core/reading/noiseAfter';
import type { FoundCorners } from '@inkavo/core/reading/findCorners';
import type { HoldReport } from '@inkavo/core/reading/holdCheck';
import type { ClockFit } from '@inkavo/core/reading/waterClock';
import type { Kept, keptRequest, KeptWhole } from '@inkavo/core/model/kept';
import type { LutRole, ShelfItem, ShelfPatch, shelfRequest } from '@inkavo/core/model/shelf';
import type { Change, StepsState, ClipChange } from '@inkavo/core/model/change';
import { PROXY_VERSION } from '@inkavo/core/colour/proxyCodes';
import type {
  Camera,
  cameraPatch,
  cameraRequest,
  Clip,
  clipPatch,
  ListedClip,
  Outing,
  outingPatch,
  outingRequest,
  StepClips,
} from '@inkavo/core/model/outing';
import type { Removable, Removed } from '@inkavo/core/model/removed';
import type { Device, JoinCode, SharingState } from '@inkavo/core/model/sharing';
import type { ProxyParts } from '@inkavo/core/model/proxyParts';
import { ask, blob, get, lines, received, send } from './request';

export { ApiError, isUnanswered, unreachable } from './request';

export interface OutingListed extends Outing {
  clipCount: number;
  clips: Pick<ListedClip, 'id' | 'look' | 'referenceFrame'>[];
}
export interface OutingOpened {
  outing: Outing;
  cameras: Camera[];
  clips: ListedClip[];
  /** Files that are being imported, or failed. */
  intake: Job[];
}
export interface ClipOpened {
  clip: Clip;
  camera: Camera;
  outing: Outing;
}

const withNoise = (noise: string): string => (noise ? `&noise=${noise}` : '');

/**
 * Whether this page was loaded over a network. A frame of 1920 × 1080 has 12.4 MB, compressed one to two and a half; on
 * the server's own machine compressing takes longer than sending it uncompressed.
 */
export const FROM_AFAR = !['127.0.0.1', 'localhost', '[::1]'].includes(globalThis.location?.hostname);

/** A part of a frame in the file's pixels. */
interface FramePart {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The server's routes, typed. */
export const api = {
  outings: () => get<OutingListed[]>('/outings'),
  outing: (id: string) => get<OutingOpened>(`/outings/${id}`),
  newOuting: (request: z.input<typeof outingRequest>) => send<Outing>('POST', '/outings', request),
  changeOuting: (id: string, patch: z.input<typeof outingPatch>) => send<Outing>('PATCH', `/outings/${id}`, patch),
  stepClips: (owner: 'camera' | 'outing', id: string, step: string) =>
    get<StepClips>(`/shared/${owner}/${id}/steps/${step}/clips`),
  limitStep: (owner: 'camera' | 'outing', id: string, step: string, clips: StepClips) =>
    send<StepClips>('PUT', `/shared/${owner}/${id}/steps/${step}/clips`, clips),
  newCamera: (outingId: string, request: z.input<typeof cameraRequest>) =>
    send<Camera>('POST', `/outings/${outingId}/cameras`, request),
  removed: () => get<Removed[]>('/removed'),
  remove: (kind: Removable, ids: string[]) => send<void>('POST', '/removed', { kind, ids }),
  putBack: (kind: Removable, ids: string[]) => send<void>('POST', '/removed/back', { kind, ids }),
  deleteRemoved: () => send<void>('DELETE', '/removed'),
  demo: () => send<{ outing: Outing }>('POST', '/demo'),
  sharing: () => get<SharingState>('/sharing'),
  setSharing: (part: Partial<Pick<SharingState, 'on' | 'encrypted'>>) => send<SharingState>('PATCH', '/sharing', part),
  joinCode: () => send<JoinCode>('POST', '/sharing/code', undefined, { once: true }),
  removeDevice: (id: string) => send<void>('DELETE', `/sharing/devices/${id}`),
  // A repeated answer would not set the cookie.
  join: (code: string, name: string) => send<Device>('POST', '/join', { code, name }, { once: true }),
  /** This device, if it was paired over the network; null on the server's own machine. */
  device: async () => (await get<{ device: Device | null }>('/device')).device,
  leave: () => send<void>('DELETE', '/device', undefined, { once: true }),
  sources: () => get<Source[]>('/sources'),
  source: (id: string) => get<SourceContent>(`/sources/${id}`),
  freeBytes: () => get<{ freeBytes: number }>('/disk'),
  allowFolder: (path: string) => send<Source>('POST', '/sources', { path }),
  setWritable: (id: string, writable: boolean) => send<Source>('PATCH', `/sources/${id}`, { writable }),
  forgetFolder: (id: string) => send<void>('DELETE', `/sources/${id}`),
  cardLogs: () => get<{ name: string; text: string }[]>('/card/logs'),
  importFrom: (outingId: string, request: z.input<typeof importRequest>) =>
    send<Job[]>('POST', `/outings/${outingId}/import`, request),
  clip: (id: string) => get<ClipOpened>(`/clips/${id}`),
  splitClip: (id: string, frame: number, as: string) =>
    send<{ clip: Clip; rest: Clip }>('POST', `/clips/${id}/split`, { frame, as }),
  /** `once`: the caller repeats it when it is lost. */
  changeClip: (id: string, patch: z.infer<typeof clipPatch>, once = false) =>
    send<Clip>('PATCH', `/clips/${id}`, patch, { once }),
  change: (id: string, change: Change, init?: RequestInit) =>
    send<StepsState>('POST', `/clips/${id}/changes`, change, { ...init, once: true }),
  /** A frame with steps that are not stored, as a JPEG. */
  preview: async (id: string, body: { steps: Step[]; frame: number; width: number }): Promise<Blob> => {
    const init = { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) };
    return blob(`/clips/${id}/preview.jpg`, init);
  },
  /** Proposals for a clip; with `onBest`, which receives the best explanation first, all explanations. */
  firstPass: async (
    id: string,
    asked: { steps: Step[]; setting: Setting | undefined; dive?: ClipDive | null },
    watch: { signal: AbortSignal; onBest?: (pass: FirstPass) => void; onProgress?: (share: number) => void },
  ) => {
    const body = { ...asked, others: watch.onBest !== undefined };
    return (await lines<{ pass: FirstPass }, FirstPass>(`/clips/${id}/first-pass`, body, watch)).pass;
  },
  /** Properties of a clip's file, from its pictures. */
  fileReading: async (id: string, signal?: AbortSignal) =>
    (await lines<{ reading: FileReading }>(`/clips/${id}/file-reading`, {}, { signal })).reading,
  changeCamera: (id: string, patch: z.infer<typeof cameraPatch>) => send<Camera>('PATCH', `/cameras/${id}`, patch),
  /** `own`: steps that mends may change; null: no mends are tried. */
  holdCheck: (id: string, steps: Step[], own: string[] | null, watch: Parameters<typeof lines>[2]) =>
    lines<{ report: HoldReport }>(`/clips/${id}/hold-check`, { steps, own }, watch),
  /** Measures a lens's vignetting over the clip, after some steps. */
  corners: async (id: string, steps: Step[], signal?: AbortSignal) =>
    (await lines<{ corners: FoundCorners }>(`/clips/${id}/corners`, { steps }, { signal })).corners,
  /** The noise level of a frame after some steps; null if it cannot be measured. */
  noise: async (id: string, asked: { steps: Step[]; frame: number; near?: boolean }, signal?: AbortSignal) =>
    (await lines<{ noise: PredictedNoise | null }>(`/clips/${id}/noise`, asked, { signal })).noise,
  /** Steps that match a clip, after some steps, to the colours of another one. */
  match: async (id: string, steps: Step[], to: string, signal?: AbortSignal) =>
    (await lines<{ match: Match }>(`/clips/${id}/match`, { steps, to }, { signal })).match,
  /** Follows a shape from one frame to another. */
  follow: (
    id: string,
    body: { kind: ShapeKind; pose: Pose; from: number; to: number },
    watch: Parameters<typeof lines>[2],
  ) => lines<FollowAnswer>(`/clips/${id}/follow`, body, watch),
  /** `once`: the caller repeats it when it is lost. */
  setDive: (id: string, dive: ClipDive | null, once = false) =>
    dive
      ? send<Clip>('PUT', `/clips/${id}/dive`, dive, { once })
      : send<Clip>('DELETE', `/clips/${id}/dive`, undefined, { once }),
  diveClock: (id: string, log: DiveLog) => lines<{ fit: ClockFit | null }>(`/clips/${id}/dive/clock`, { log }),
  shelf: () => get<ShelfItem[]>('/shelf'),
  lutText: async (id: string) => received((await ask(`/luts/${id}`)).text()),
  /** Imports a table, a recipe or a profile from a file. */
  addToShelf: (file: File, { group, role }: { group: string; role: LutRole }) =>
    send<ShelfItem>('POST', `/shelf/files?${new URLSearchParams({ name: file.name, group, role })}`, undefined, {
      headers: { 'Content-Type': 'text/plain' },
      body: file,
    }),
  putOnShelf: (request: z.input<typeof shelfRequest>) => send<ShelfItem>('POST', '/shelf', request),
  changeShelfItem: (id: string, patch: ShelfPatch) => send<ShelfItem>('PATCH', `/shelf/${id}`, patch),
  kept: (outingId: string) => get<Kept[]>(`/outings/${outingId}/kept`),
  keptWhole: (id: string) => get<KeptWhole>(`/kept/${id}`),
  keep: (clipId: string, request: z.infer<typeof keptRequest>) =>
    send<KeptWhole>('POST', `/clips/${clipId}/kept`, request),
  /** The largest available representative picture of a clip, graded. */
  thumb: (clip: ListedClip) => blob(thumbPath(clip, true, 960)),
  keptPicture: (id: string, width: number) => blob(`/kept/${id}/picture.jpg?width=${width}`),
  jobs: () => get<Job[]>('/jobs'),
  codecs: () => get<{ codec: Codec; fast: boolean }[]>('/deliveries/codecs'),
  expected: (clipId: string, delivery: DeliveryRequest, of: number, signal: AbortSignal) =>
    send<Expected>('POST', '/deliveries/expected', { clipId, delivery, of }, { signal, once: true }),
  gradeFile: (steps: readonly Step[], request: GradeFileRequest) =>
    send<GradeFile>('POST', '/grade-files', { steps, ...request }, { once: true }),
  deliver: (clipIds: string[], delivery: DeliveryRequest, also: DeliveryRequest[] = []) =>
    send<Job[]>('POST', '/deliveries', { clipIds, delivery, also }),
  makeFilm: (request: z.input<typeof filmRequest>) => send<Job[]>('POST', '/films', request),
  makeDocument: (request: z.input<typeof documentRequest>) => send<Job[]>('POST', '/documents', request),
  /** A frame at the size of the file, with the stored steps. */
  still: (clipId: string, frame: number, form: string, quality: number) =>
    blob(`/clips/${clipId}/still?frame=${frame}&form=${form}&quality=${quality}`),
  presets: () => get<Preset[]>('/presets'),
  keepPreset: (name: string, delivery: Delivery) => send<Preset>('POST', '/presets', { name, delivery }),
  forgetPreset: (id: string) => send<void>('DELETE', `/presets/${id}`),
  queue: () => get<Queue>('/queue'),
  setQueue: (part: Partial<Queue>) => send<Queue>('PUT', '/queue', part),
  copyFile: (id: string, into: string) => send<Job>('POST', `/jobs/${id}/copy`, { into }),
  proxyParts: (clipId: string) => get<ProxyParts>(`/clips/${clipId}/proxy-parts`),
  someClips: (ids: string[]) => send<Clip[]>('POST', '/clips/some', { ids }, { once: true }),
  clipsTogether: (changes: ClipChange[]) => send<void>('POST', '/clips/together', { changes }),
  wantProxy: (clipId: string, frame: number, waits = false) =>
    send<void>('POST', `/clips/${clipId}/proxy-wanted`, { frame, waits }, { once: true }),
  moveJob: (id: string, rank: number) => send<Job>('PATCH', `/jobs/${id}`, { rank }),
  stopJob: (id: string) => send<Job>('POST', `/jobs/${id}/stop`),
  jobAgain: (id: string) => send<Job>('POST', `/jobs/${id}/again`),
  jobsTogether: (request: JobsRequest) => send<void>('POST', '/jobs/together', request),
  removeJob: (id: string) => send<void>('DELETE', `/jobs/${id}`),
  /** R'G'B' of a frame's cells, averaged over the file's pixels. */
  cells: async (clipId: string, frame: number, noise: string, signal: AbortSignal): Promise<Float32Array> => {
    const res = await ask(`/clips/${clipId}/cells?frame=${frame}${withNoise(noise)}`, { signal });
    return new Float32Array(await received(res.arrayBuffer(), signal));
  },
  /**
   * A still frame, or a part of it in the file's pixels, as bytes of 16-bit planes, and its size; over a network
   * compressed (`unpackSamples`). `ms`: transfer time. `noise`: amount of noise reduction before anything else, luma
   * and chroma separated by a comma; empty: none.
   */
  async frame(clipId: string, frame: number, width: number, noise: string, signal: AbortSignal, part?: FramePart) {
    const cut = part ? `&part=${part.x},${part.y},${part.width},${part.height}` : '';
    const small = FROM_AFAR ? '&packed=1' : '';
    const address = `/clips/${clipId}/frame?frame=${frame}&width=${width}${cut}${withNoise(noise)}${small}`;
    const res = await ask(address, { signal });
    const begun = performance.now();
    const buffer = await received(res.arrayBuffer(), signal);
    return {
      buffer,
      packed: FROM_AFAR,
      ms: performance.now() - begun,
      width: Number(res.headers.get('X-Frame-Width')),
      height: Number(res.headers.get('X-Frame-Height')),
    };
  },
};

type Pictured = Pick<ListedClip, 'id' | 'look' | 'referenceFrame'>;
const thumbPath = (clip: Pictured, graded: boolean, width: number): string =>
  `/clips/${clip.id}/thumb.jpg?width=${width}&graded=${graded ? 1 : 0}&v=${graded ? clip.look : ''}.${clip.referenceFrame}`;
export const thumbUrl = (clip: Pictured, graded: boolean, width = 320): string =>
  `/api${thumbPath(clip, graded, width)}`;
export const sourcePictureUrl = (source: string, path: string): string =>
  `/api/sources/${source}/picture.jpg?${new URLSearchParams({ path })}`;
/** The address changes when proxies are encoded differently, or when the file is probed again (`probed`). */
const made = (probed: number): string => `v=${PROXY_VERSION}.${probed}`;
export const proxyUrl = (clipId: string, probed: number): string => `/api/clips/${clipId}/proxy.mp4?${made(probed)}`;
export const proxyPartUrl = (clipId: string, probed: number, first: number): string =>
  `/api/clips/${clipId}/proxy-part.mp4?first=${first}&${made(probed)}`;
/** `span`: of these frames only. */
export const stripUrl = (clipId: string, probed: number, span: { first: number; last: number } | null): string =>
  `/api/clips/${clipId}/strip.jpg?${made(probed)}${span ? `&first=${span.first}&last=${span.last}` : ''}`;
/** The chart for measuring a browser's decoding, see `core/colour/proxyCodes.ts`. */
export const CHART_URL = `/api/proxy-chart.mp4?v=${PROXY_VERSION}`;
/** All finished files as one archive, as a POST: their ids would be too long for a URL. */
export const ARCHIVE_URL = '/api/jobs/archive.zip';
export const keptStillsUrl = (ids: readonly string[], form: string): string =>
  `/api/kept/stills.zip?ids=${ids.join(',')}&form=${form}`;
export const jobFileUrl = (jobId: string): string => `/api/jobs/${jobId}/file`;
export const shelfFileUrl = (id: string): string => `/api/shelf/${id}/file`;
export const keptUrl = (id: string, width: number): string => `/api/kept/${id}/picture.jpg?width=${width}`;
