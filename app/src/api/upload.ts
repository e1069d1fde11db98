import PQueue from 'p-queue';
import { create } from 'zustand';
import { forgetSent, sendFile } from './sendFile';

/** A recording on this device: one file, or its chapters in order, and its camera. */
export interface DeviceRecording {
  files: File[];
  camera: string;
  /** The kind of a new camera. */
  kind: string;
}

/** A recording being uploaded. */
export interface Sending {
  id: string;
  outingId: string;
  name: string;
  /** Number of files; more than one are chapters. */
  files: number;
  bytes: number;
  /** Speed since it was started or resumed; null before anything was sent. */
  bytesPerSecond: number | null;
  /** Progress, 0–1. */
  progress: number;
  /** `queued`: others are sent first. `waiting`: for the connection. */
  state: 'queued' | 'sending' | 'waiting' | 'failed';
  message?: string;
  stop(): void;
}

interface UploadState {
  sending: Sending[];
  send(outingId: string, recordings: DeviceRecording[]): void;
}

/** Concurrent uploads: browsers open six connections to a server, and the rest of the page needs some. */
const AT_ONCE = 2;

const bytesOf = (files: readonly File[]): number => files.reduce((sum, f) => sum + f.size, 0);

/**
 * Resumable uploads, which continue when the connection returns, and after a reload (same files chosen again). Chapters
 * of a recording are sent in order; each after the first names the upload of the first, so that the server can join
 * them, and all stay listed until the last has arrived.
 */
export const useUploads = create<UploadState>((set, get) => {
  const change = (id: string, part: Partial<Sending>): void =>
    set(({ sending }) => ({ sending: sending.map((s) => (s.id === id ? { ...s, ...part } : s)) }));
  const drop = (id: string): void => set(({ sending }) => ({ sending: sending.filter((s) => s.id !== id) }));

  const queue = new PQueue({ concurrency: AT_ONCE });
  const begin = (outingId: string, { files, camera, kind }: DeviceRecording): void => {
    const idOf = (file: File): string => `${outingId}/${file.name}/${file.size}/${file.lastModified}`;
    const id = idOf(files[0]);
    if (get().sending.some((s) => s.id === id && s.state !== 'failed')) return;
    const all = bytesOf(files);
    const ends = new AbortController();
    let begun: { at: number; sent: number } | undefined;

    /** Uploads one file; resolves with the upload's id, rejects with a message. */
    const send = (file: File, chapter: number, first: string): Promise<string> => {
      const before = bytesOf(files.slice(0, chapter));
      return sendFile(file, {
        metadata: {
          ...{ outing: outingId, camera, kind },
          ...(files.length > 1 ? { chapters: `${files.length}`, chapter: `${chapter}` } : {}),
          ...(chapter > 0 ? { first } : {}),
        },
        fingerprint: idOf(file),
        signal: ends.signal,
        onStart: () => change(id, { state: 'sending' }),
        onWait: (message) => change(id, { state: 'waiting', message }),
        onSent(sentOfFile) {
          const sent = before + sentOfFile;
          // What an earlier attempt had sent does not count towards the speed.
          begun ??= { at: performance.now(), sent };
          const seconds = (performance.now() - begun.at) / 1000;
          const bytesPerSecond = seconds > 0.5 ? (sent - begun.sent) / seconds : null;
          change(id, { progress: all ? sent / all : 0, state: 'sending', bytesPerSecond });
        },
      });
    };

    const work = async (): Promise<void> => {
      let first = '';
      try {
        for (const [chapter, file] of files.entries()) {
          if (ends.signal.aborted) return;
          const sent = await send(file, chapter, first);
          first ||= sent;
        }
      } catch (error) {
        const message = `${(error as Error).message} What was sent is kept: choose the same again to go on.`;
        return change(id, { state: 'failed', message });
      }
      if (ends.signal.aborted) return;
      drop(id);
      await Promise.all(files.map((file) => forgetSent(file, idOf(file))));
    };
    const stop = (): void => {
      ends.abort();
      drop(id);
    };
    set(({ sending }) => ({
      sending: [
        ...sending.filter((s) => s.id !== id),
        {
          ...{ id, outingId, name: files[0].name, files: files.length, bytes: all, bytesPerSecond: null },
          ...{ progress: 0, state: 'queued', stop },
        },
      ],
    }));
    void queue.add(work);
  };

  return {
    sending: [],
    send: (outingId, recordings) => recordings.forEach((recording) => begin(outingId, recording)),
  };
});
