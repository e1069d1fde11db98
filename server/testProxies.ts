import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { repositoryRoot } from '@inkavo/media/root';
import { proxyName } from './config';

/**
 * Proxies of a card's clips, made once for all tests; in a separate folder for each version of the code that makes
 * them.
 */
function folder(card: string): string {
  const hash = createHash('sha256');
  for (const sources of ['frames', 'codec'].map((part) => join(repositoryRoot(), 'media', part)))
    for (const name of readdirSync(sources).sort()) hash.update(readFileSync(join(sources, name)));
  return join(repositoryRoot(), 'node_modules', '.cache', `inkavo-proxies-${hash.digest('hex').slice(0, 16)}`, card);
}

/** Copies earlier proxies into a library, where the proxy job finds them. */
export function layProxies(data: string, card: string): void {
  const from = folder(card);
  mkdirSync(join(data, 'proxies'), { recursive: true });
  if (!existsSync(from)) return;
  for (const name of readdirSync(from).filter((n) => n.endsWith('.mp4')))
    copyFileSync(join(from, name), join(data, 'proxies', name));
}

/** Saves the proxies of a card's clips for later tests. */
export function keepProxies(data: string, card: string, hashes: readonly string[]): void {
  const to = folder(card);
  mkdirSync(to, { recursive: true });
  for (const name of hashes.map(proxyName)) {
    if (existsSync(join(to, name))) continue;
    copyFileSync(join(data, 'proxies', name), join(to, `${name}.${process.pid}.part`));
    renameSync(join(to, `${name}.${process.pid}.part`), join(to, name));
  }
}
