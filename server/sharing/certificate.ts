import { X509Certificate } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { rename, writeFile } from 'node:fs/promises';

/** A private key with its certificate, as TLS takes them (PEM). */
export interface Certificate {
  key: string;
  cert: string;
  /** SHA-256 of the certificate, in pairs of hexadecimal digits. */
  fingerprint: string;
}

/** Browsers reject certificates with a longer validity (CA/Browser Forum Baseline Requirements: 398 days). */
const DAYS = 397;
/** Renewed when it would expire within this time. */
const LEFT_MS = 14 * 86_400_000;

/**
 * The server's self-signed certificate. Stored, so that a device that trusted it is not asked again; created if missing
 * or about to expire.
 */
export async function certificateAt(path: string): Promise<Certificate> {
  const kept = existsSync(path) ? read(readFileSync(path, 'utf8')) : null;
  if (kept) return kept;
  const { generate } = await import('selfsigned');
  const now = new Date();
  const { private: key, cert } = await generate([{ name: 'commonName', value: 'Inkavo' }], {
    keyType: 'ec',
    algorithm: 'sha256',
    notBeforeDate: now,
    notAfterDate: new Date(now.getTime() + DAYS * 86_400_000),
  });
  const text = `${key.trim()}\n${cert.trim()}\n`;
  await writeFile(`${path}.part`, text, { mode: 0o600 });
  await rename(`${path}.part`, path);
  return read(text)!;
}

/** Null if it is damaged or about to expire. */
function read(text: string): Certificate | null {
  const begin = text.indexOf('-----BEGIN CERTIFICATE-----');
  if (begin < 0) return null;
  try {
    const [key, cert] = [text.slice(0, begin), text.slice(begin)];
    const { fingerprint256, validTo } = new X509Certificate(cert);
    return Date.parse(validTo) - Date.now() > LEFT_MS ? { key, cert, fingerprint: fingerprint256 } : null;
  } catch {
    return null;
  }
}
