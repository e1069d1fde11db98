import { readFileSync } from 'node:fs';

/** Headers that the upload protocol (tus 1.0) requires. */
export const TUS = { 'Tus-Resumable': '1.0.0' };
const encode = (text: string): string => Buffer.from(text).toString('base64');

/** Creates an upload of this many bytes. */
export const createUpload = (address: string, bytes: number, metadata: Record<string, string>): Promise<Response> =>
  fetch(`${address}/api/uploads`, {
    method: 'POST',
    headers: {
      ...TUS,
      'Upload-Length': String(bytes),
      'Upload-Metadata': Object.entries(metadata)
        .map(([key, value]) => `${key} ${encode(value)}`)
        .join(','),
    },
  });

/** Sends a part of an upload. `location` is from the response to its creation. */
export const patchUpload = (address: string, location: string, offset: number, part: Buffer): Promise<Response> =>
  fetch(new URL(location, address), {
    method: 'PATCH',
    headers: { ...TUS, 'Upload-Offset': String(offset), 'Content-Type': 'application/offset+octet-stream' },
    body: new Uint8Array(part),
  });

/**
 * Sends a file, completely or only this many bytes of it. Resolves with the upload's id; throws unless everything is
 * accepted.
 */
export async function sendFile(
  address: string,
  path: string,
  metadata: Record<string, string>,
  bytes?: number,
): Promise<string> {
  const file = readFileSync(path);
  const created = await createUpload(address, file.length, metadata);
  const location = created.headers.get('location');
  if (created.status !== 201 || !location) throw new Error(`The upload was answered ${created.status}.`);
  const { status } = await patchUpload(address, location, 0, file.subarray(0, bytes));
  if (status !== 204) throw new Error(`The file was answered ${status}.`);
  return location.split('/').at(-1)!;
}
