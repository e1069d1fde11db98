import { existsSync } from 'node:fs';
import type { Knex } from 'knex';
import { PROBE_VERSION, type MediaFacts } from '@inkavo/core/model/facts';
import { probe } from '@inkavo/media/codec';
import type { Library } from '../config';
import type { Events } from '../events';
import type { ClipStore } from '../stores/clips';
import type { JobStore } from '../stores/jobs';
import { proxyJob } from '../stores/newJob';

/** Properties on which a proxy depends: if one changes, it is remade. */
const shapeOf = ({ width, height, fields, frames, startSeconds }: MediaFacts): string =>
  JSON.stringify([width, height, fields, frames, startSeconds]);

interface LookedWith {
  library: Library;
  clips: ClipStore;
  jobs: JobStore;
  events: Events;
  wake(): void;
}

/** Queues a proxy to be remade, within a transaction. Resolves with the outings that show its file. */
async function proxyAnew({ clips, jobs }: Pick<LookedWith, 'clips' | 'jobs'>, hash: string, trx: Knex.Transaction) {
  const [clip] = await clips.namesOf(hash, trx);
  if (!clip) return [];
  const media = await clips.media(hash, trx);
  await jobs.insert(proxyJob(hash, { ...clip, facts: media!.facts }), trx);
  return clips.setProxy(hash, 'waiting', trx);
}

/**
 * Queues missing proxies to be remade: those of an earlier version, or deleted manually. Runs before requests are
 * answered.
 */
export async function replaceProxies({ library, clips, jobs }: Pick<LookedWith, 'library' | 'clips' | 'jobs'>) {
  for (const hash of await clips.withProxy())
    if (!existsSync(library.proxy(hash)) && existsSync(library.original(hash)))
      await clips.transaction((trx) => proxyAnew({ clips, jobs }, hash, trx));
}

/**
 * Probes files again that were imported by an earlier version: new properties replace the old ones, and a proxy of
 * another shape is remade. An unreadable file stays as it is until the next start.
 */
export async function reprobeFiles(
  { library, clips, jobs, events, wake }: LookedWith,
  signal: AbortSignal,
): Promise<void> {
  for (const hash of await clips.outdated(PROBE_VERSION)) {
    const path = library.original(hash);
    if (signal.aborted) return;
    const known = await clips.media(hash);
    const found = known && existsSync(path) ? await probe(path, signal).catch(() => undefined) : undefined;
    if (!known || !found || signal.aborted) continue;
    const isOther = shapeOf(known.facts) !== shapeOf(found.facts);
    // Files first: an interruption here is repeated at the next start.
    if (isOther) library.removeProxy(hash);
    const shownIn = await clips.lookedAgain(hash, found, async (trx) =>
      isOther ? proxyAnew({ clips, jobs }, hash, trx) : [],
    );
    shownIn.forEach((id) => events.send({ type: 'outing', id }));
    wake();
  }
}
