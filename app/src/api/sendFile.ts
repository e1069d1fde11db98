import { DetailedError, Upload, type PreviousUpload } from 'tus-js-client';
import { connectionSignal, onReconnect, useConnection } from '../state/connection';

/** Delay after a response that asks to retry later. */
const RETRY_MS = [0, 500, 1500, 3000, 5000, 10_000, 20_000, 30_000];
/** Without a response it is resumed when the server is reachable again; number of attempts meanwhile. */
const AGAIN_MS = 5000;
const CHUNK = 8 << 20;

/** The last part of an upload's URL. */
const uploadId = (url: string | null): string => url?.split('/').at(-1) ?? '';

interface Sent {
  metadata: Record<string, string>;
  /** Identifies this file among the browser's stored uploads. */
  fingerprint: string;
  /** Aborts without a result; what was sent is deleted. */
  signal: AbortSignal;
  onSent(bytes: number): void;
  /** Waiting: for the connection, or for a reason given by the server. */
  onWait(why: string | undefined): void;
  onStart(): void;
}

/**
 * Uploads a file, resuming an earlier attempt. If the connection is lost, or dead without being closed, it waits as
 * long as the page is open. Resolves with the upload's id ('' if aborted by `signal`); rejects with a message when the
 * server refuses it, or the file can no longer be read.
 */
export async function sendFile(
  file: File,
  { metadata, fingerprint, signal, onSent, onWait, onStart }: Sent,
): Promise<string> {
  if (signal.aborted) return '';
  let attempt = new AbortController();
  /** Number of reconnections when the attempt began. */
  let backBefore = 0;
  let resolve!: (id: string) => void;
  let reject!: (reason: Error) => void;
  const promise = new Promise<string>((done, failed) => {
    resolve = done;
    reject = failed;
  });
  const upload = new Upload(file, {
    endpoint: '/api/uploads',
    retryDelays: RETRY_MS,
    chunkSize: CHUNK,
    metadata: { filename: file.name, filetype: file.type, ...metadata },
    fingerprint: () => Promise.resolve(fingerprint),
    onProgress: onSent,
    onShouldRetry(error) {
      const status = error.originalResponse?.getStatus() ?? 0;
      if (status < 500 && status !== 409 && status !== 423) return false;
      onWait(status === 507 ? 'the server’s disk is full' : undefined);
      return true;
    },
    onError(error) {
      if (error instanceof DetailedError && !error.originalResponse) return void wait();
      const said = error instanceof DetailedError ? error.originalResponse?.getBody() : error.message;
      reject(new Error(said || 'The connection was lost.'));
    },
    onSuccess: () => resolve(uploadId(upload.url)),
  });
  const start = (): void => {
    attempt = new AbortController();
    backBefore = useConnection.getState().times;
    const dead = (): void => void upload.abort().finally(wait);
    connectionSignal().addEventListener('abort', dead, { once: true, signal: attempt.signal });
    onStart();
    upload.start();
  };
  const wait = async (): Promise<void> => {
    attempt.abort();
    onWait(undefined);
    // An attempt that began before a reconnection, and failed because of it, is repeated at once.
    if (useConnection.getState().times === backBefore) await backOrAfter(AGAIN_MS, signal);
    if (signal.aborted) return;
    // A removed card looks like a lost connection too.
    const readable = await file
      .slice(0, 1)
      .arrayBuffer()
      .then(Boolean, () => false);
    if (readable) start();
    else reject(new Error('It can no longer be read on this device.'));
  };
  signal.addEventListener('abort', () => {
    void upload.abort(true).catch(() => undefined);
    resolve('');
  });
  // Without browser storage, the upload starts over.
  const found = await upload.findPreviousUploads().catch((): PreviousUpload[] => []);
  // A chapter of a deleted upload is sent again.
  const earlier = found.find((p) => (p.metadata.first ?? '') === (metadata.first ?? ''));
  if (earlier) upload.resumeFromPreviousUpload(earlier);
  if (!signal.aborted) start();
  return promise.finally(() => attempt.abort());
}

/** Resolves when the server is reachable again, after this many milliseconds, or when `signal` aborts. */
const backOrAfter = (ms: number, signal: AbortSignal): Promise<void> =>
  new Promise((resolve) => {
    const go = (): void => {
      clearTimeout(timer);
      stop();
      signal.removeEventListener('abort', go);
      resolve();
    };
    const timer = setTimeout(go, ms);
    const stop = onReconnect(go);
    signal.addEventListener('abort', go);
  });

/** Deletes the browser's stored entries of completed uploads. */
export async function forgetSent(file: File, fingerprint: string): Promise<void> {
  const upload = new Upload(file, { endpoint: '/api/uploads', fingerprint: () => Promise.resolve(fingerprint) });
  const found = await upload.findPreviousUploads().catch((): PreviousUpload[] => []);
  const storage = upload.options.urlStorage;
  await Promise.all(found.map((p) => storage?.removeUpload(p.urlStorageKey).catch(() => undefined)));
}
