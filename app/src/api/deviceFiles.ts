import { isTrackType, mediaInfoFactory, type MediaInfo, type MediaInfoResult } from 'mediainfo.js';
import PQueue from 'p-queue';
import { cameraOf } from '@inkavo/core/intake/cameraTags';
import { isClipName } from '@inkavo/core/intake/clipNames';
import type { CardFile, FileHeader } from '@inkavo/core/model/source';

/** A file on this device, and its path relative to what was chosen or dropped, with / as separator. */
export interface DeviceFile {
  file: File;
  path: string;
}

/** Chosen files, with paths relative to the chosen folder. */
export const withPaths = (files: Iterable<File>): DeviceFile[] =>
  [...files].map((file) => ({ file, path: file.webkitRelativePath || file.name }));

/** The clips among files, each with a unique path, and the number of others. */
export function clipsAmong(files: readonly DeviceFile[]): { clips: DeviceFile[]; others: number } {
  const seen = new Map<string, number>();
  const clips = files
    .filter(({ file, path }) => isClipName(file.name) && !path.split('/').some((part) => part.startsWith('.')))
    .map(({ file, path }) => {
      const times = (seen.get(path) ?? 0) + 1;
      seen.set(path, times);
      return { file, path: times > 1 ? `${times}/${path}` : path };
    });
  return { clips, others: files.length - clips.length };
}

/** The header reader: loaded on demand, and shared. */
let reader: Promise<MediaInfo> | undefined;
/** It handles one file at a time. */
const looks = new PQueue({ concurrency: 1 });

/**
 * Reads the headers of files on this device one after another: the same properties that the server reports for its
 * sources. A file that is not a clip gets a reason instead. Throws if the header reader cannot be loaded, or when
 * aborted.
 */
export async function lookAtFiles(
  files: readonly DeviceFile[],
  { signal, onProgress }: { signal: AbortSignal; onProgress(done: number): void },
): Promise<CardFile[]> {
  reader ??= mediaInfoFactory({ format: 'object', locateFile: (name) => `/${name}` });
  const info = await reader.catch((error: unknown) => {
    reader = undefined;
    throw error;
  });
  const found: CardFile[] = [];
  for (const { file, path } of files) {
    const folders = path.split('/').slice(0, -1);
    const looked = await looks.add(() => lookAt(info, file), { signal });
    found.push({ path, folders, folder: folders.at(-1) ?? '', name: file.name, bytes: file.size, ...looked });
    onProgress(found.length);
  }
  return found;
}

async function lookAt(info: MediaInfo, file: File): Promise<Pick<CardFile, 'header' | 'problem'>> {
  if (file.size === 0) return { header: null, problem: 'The file is empty.' };
  try {
    const part = async (size: number, offset: number): Promise<Uint8Array> =>
      new Uint8Array(await file.slice(offset, offset + size).arrayBuffer());
    const header = headerOf((await info.analyzeData(file.size, part)) as MediaInfoResult);
    return { header, problem: header ? null : 'There is no video in it, or it is damaged.' };
  } catch {
    return { header: null, problem: 'This device cannot read it.' };
  }
}

/** "2031-06-14 09:00:00 UTC" as ISO 8601; null if absent. */
function timeOf(date: string | undefined): string | null {
  const match = /(\d{4}-\d\d-\d\d)[ T](\d\d:\d\d:\d\d)/.exec(date ?? '');
  return match ? `${match[1]}T${match[2]}Z` : null;
}

/** Properties of a file; null if it contains no video. */
export function headerOf({ media }: MediaInfoResult): FileHeader | null {
  const tracks = media?.track ?? [];
  const general = tracks.find((t) => isTrackType(t, 'General'));
  const video = tracks.find((t) => isTrackType(t, 'Video'));
  const audio = tracks.find((t) => isTrackType(t, 'Audio'));
  if (!video?.Width || !video.Height) return null;
  const extra = Object.entries({ ...video.extra, ...general?.extra }).map(([key, value]) => [key, String(value)]);
  const tags: Record<string, string> = Object.fromEntries(extra);
  const model = general?.Encoded_Hardware_Name ?? general?.Encoded_Hardware_Model;
  return {
    codec: (video.Format ?? 'unknown').toLowerCase(),
    width: video.Width,
    height: video.Height,
    rotation: Math.round(Number(video.Rotation ?? 0)) || 0,
    fps: video.FrameRate ?? 0,
    depth: video.BitDepth ?? 8,
    seconds: video.Duration ?? general?.Duration ?? 0,
    sound: audio?.Format?.toLowerCase() ?? null,
    recordedAt: timeOf(general?.Encoded_Date ?? video.Encoded_Date),
    camera: cameraOf({
      ...tags,
      ...(model ? { model } : {}),
      ...(general?.Encoded_Hardware_CompanyName ? { make: general.Encoded_Hardware_CompanyName } : {}),
    }),
  };
}
