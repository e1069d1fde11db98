import PQueue from 'p-queue';
import { DetailedError, Upload } from 'tus-js-client';
import { create } from 'zustand';

/** A file that is being sent to the server. */
export interface Sending {
  id: string;
  outingId: string;
  name: string;
  bytes: number;
  /** Pace since it was begun or gone on with; null before anything was sent. */
  bytesPerSecond: number | null;
  /** Share sent, 0–1. */
  progress: number;
  /** `queued`: others are sent first. `waiting`: for the connection. */
  state: 'queued' | 'sending' | 'waiting' | 'failed';
  message?: string;
  stop(): void;
}

interface UploadState {
  sending: Sending[];
  /** `camera`: the name of their camera; empty: as their tags say. */
  send(outingId: string, files: File[], camera: string): void;
}

/** Files sent at once: browsers open six connections to a server, and everything else on the page needs some. */
const AT_ONCE = 2;
const RETRY_MS = [0, 500, 1500, 3000, 5000, 10_000, 20_000, 30_000];

/** Uploads that go on from where they were when the connection comes back, also after a reload (same file chosen again). */
export const useUploads = create<UploadState>((set, get) => {
  const change = (id: string, part: Partial<Sending>): void =>
    set(({ sending }) => ({ sending: sending.map((s) => (s.id === id ? { ...s, ...part } : s)) }));
  const drop = (id: string): void => set(({ sending }) => ({ sending: sending.filter((s) => s.id !== id) }));

  const queue = new PQueue({ concurrency: AT_ONCE });
  const begin = (outingId: string, file: File, camera: string): void => {
    const id = `${outingId}/${file.name}/${file.size}/${file.lastModified}`;
    if (get().sending.some((s) => s.id === id && s.state !== 'failed')) return;
    let begun: { at: number; sent: number } | undefined;
    let stopped = false;
    let end = (): void => undefined;
    const upload = new Upload(file, {
      endpoint: '/api/uploads',
      retryDelays: RETRY_MS,
      chunkSize: 8 << 20,
      removeFingerprintOnSuccess: true,
      metadata: { filename: file.name, filetype: file.type, outing: outingId, ...(camera ? { camera } : {}) },
      fingerprint: () => Promise.resolve(id),
      onProgress: (sent, all) => {
        // What an earlier attempt had sent says nothing of this one's pace.
        begun ??= { at: performance.now(), sent };
        const seconds = (performance.now() - begun.at) / 1000;
        const bytesPerSecond = seconds > 0.5 ? (sent - begun.sent) / seconds : null;
        change(id, { progress: all ? sent / all : 0, state: 'sending', bytesPerSecond });
      },
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        change(id, { state: 'waiting', message: status === 507 ? 'the server’s disk is full' : undefined });
        return status === 0 || status >= 500 || status === 409 || status === 423;
      },
      onError: (error) => {
        const said = error instanceof DetailedError ? error.originalResponse?.getBody() : undefined;
        change(id, {
          state: 'failed',
          message: `${said || 'The connection was lost.'} What was sent is kept: choose the file again to go on.`,
        });
        end();
      },
      onSuccess: () => {
        drop(id);
        end();
      },
    });
    const stop = (): void => {
      stopped = true;
      void upload.abort(true);
      drop(id);
      end();
    };
    set(({ sending }) => ({
      sending: [
        ...sending.filter((s) => s.id !== id),
        {
          ...{ id, outingId, name: file.name, bytes: file.size, bytesPerSecond: null },
          ...{ progress: 0, state: 'queued', stop },
        },
      ],
    }));
    void queue.add(async () => {
      // Where the browser keeps nothing, it is sent from its beginning.
      const [earlier] = await upload.findPreviousUploads().catch(() => []);
      if (stopped) return;
      if (earlier) upload.resumeFromPreviousUpload(earlier);
      change(id, { state: 'sending' });
      await new Promise<void>((resolve) => {
        end = resolve;
        upload.start();
      });
    });
  };

  return {
    sending: [],
    send: (outingId, files, camera) => files.forEach((file) => begin(outingId, file, camera)),
  };
});
