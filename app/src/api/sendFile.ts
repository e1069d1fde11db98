import { DetailedError, Upload, type PreviousUpload } from 'tus-js-client';
import { connectionSignal, onReconnect, useConnection } from '../state/connection';

/** After an answer that says "later". */
const RETRY_MS = [0, 500, 1500, 3000, 5000, 10_000, 20_000, 30_000];
/** Without an answer it goes on when the server is heard of again, and is tried so often meanwhile. */
const AGAIN_MS = 5000;
const CHUNK = 8 << 20;

/** The last part of an upload's address. */
const uploadId = (url: string | null): string => url?.split('/').at(-1) ?? '';

interface Sent {
  metadata: Record<string, string>;
  /** Tells this file from others in the browser's notes. */
  fingerprint: string;
  /** Ends it without a result; what was sent is removed. */
  signal: AbortSignal;
  onSent(bytes: number): void;
  /** It waits: for the connection, or for a reason that the server gives. */
  onWait(why: string | undefined): void;
  onStart(): void;
}

/**
 * Sends a file to the server, from where an earlier attempt came to. Over a connection that is lost, or goes dead without
 * being closed, it waits for as long as the page is open. Resolves with the upload's id ('' where `signal` ended it); rejects
 * with a sentence when the server does not take it, or it can no longer be read.
 */
export async function sendFile(
  file: File,
  { metadata, fingerprint, signal, onSent, onWait, onStart }: Sent,
): Promise<string> {
  if (signal.aborted) return '';
  let attempt = new AbortController();
  /** How often the connection had come back when the attempt began. */
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
    // An attempt that was begun before the connection came back, and ended by that, is made again at once.
    if (useConnection.getState().times === backBefore) await backOrAfter(AGAIN_MS, signal);
    if (signal.aborted) return;
    // A card that was taken out looks like a lost connection, too.
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
  // Where the browser keeps nothing, it is sent from its beginning.
  const found = await upload.findPreviousUploads().catch((): PreviousUpload[] => []);
  // A chapter of an upload that is gone is sent anew.
  const earlier = found.find((p) => (p.metadata.first ?? '') === (metadata.first ?? ''));
  if (earlier) upload.resumeFromPreviousUpload(earlier);
  if (!signal.aborted) start();
  return promise.finally(() => attempt.abort());
}

/** Resolves when the server can be reached again, after so many milliseconds, or when `signal` aborts. */
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

/** Removes the browser's notes of files that have arrived. */
export async function forgetSent(file: File, fingerprint: string): Promise<void> {
  const upload = new Upload(file, { endpoint: '/api/uploads', fingerprint: () => Promise.resolve(fingerprint) });
  const found = await upload.findPreviousUploads().catch((): PreviousUpload[] => []);
  const storage = upload.options.urlStorage;
  await Promise.all(found.map((p) => storage?.removeUpload(p.urlStorageKey).catch(() => undefined)));
}
