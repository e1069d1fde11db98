import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { repositoryRoot } from '@inkavo/media/root';
import { proxyName, stripName } from './config';

/**
 * Proxies and filmstrips of a card's clips, made once for all tests; in a separate folder for each version of the code
 * that makes them.
 */
function folder(card: string): string {
  const hash = createHash('sha256');
  for (const sources of ['frames', 'codec', 'reading'].map((part) => join(repositoryRoot(), 'media', part)))
    for (const name of readdirSync(sources).sort()) hash.update(readFileSync(join(sources, name)));
  return join(repositoryRoot(), 'node_modules', '.cache', `inkavo-proxies-${hash.digest('hex').slice(0, 16)}`, card);
}

/** Copies earlier ones into a library, where the proxy job finds them. */
export function layProxies(data: string, card: string): void {
  const from = folder(card);
  mkdirSync(join(data, 'proxies'), { recursive: true });
  if (!existsSync(from)) return;
  for (const name of readdirSync(from).filter((n) => /\.(mp4|jpg)$/.test(n)))
    copyFileSync(join(from, name), join(data, 'proxies', name));
}

/** Saves those of a card's clips for later tests. */
export function keepProxies(data: string, card: string, hashes: readonly string[]): void {
  const to = folder(card);
  mkdirSync(to, { recursive: true });
  for (const name of hashes.flatMap((hash) => [proxyName(hash), stripName(hash)])) {
    if (existsSync(join(to, name))) continue;
    copyFileSync(join(data, 'proxies', name), join(to, `${name}.${process.pid}.part`));
    renameSync(join(to, `${name}.${process.pid}.part`), join(to, name));
  }
}
