import type { QueryClient } from '@tanstack/react-query';
import { BEAT, BEAT_MS, type ServerEvent } from '@inkavo/core/model/events';
import type { Job } from '@inkavo/core/model/job';
import { connected, disconnected, stalled } from '../state/connection';
import { tell } from '../state/messages';
import { api, unreachable, type OutingOpened } from './client';
import { refresh } from './refresh';
import { timeLimit } from './timeLimit';

const AGAIN_MS = 3000;
/** A stream that is silent for so long is dead, whether or not anything has closed it: three beats, and what a network delays. */
const silentAfter = (beatMs: number): number => 3 * beatMs + 1000;
/**
 * A stream that is not open after so long is tried anew, since a browser repeats an attempt that was lost ever more rarely; each
 * further attempt has twice the time, up to the most, for networks that are only slow.
 */
const OPEN_MS = { first: 6000, most: 24_000 };
const LOOK_MS = 2000;
/** How many connections a browser keeps to a server (HTTP/1.1) beside the stream's: from memory, the same in all engines. */
const OTHER_CONNECTIONS = 5;

/** News of jobs are shown together, after so many milliseconds: while a card comes in there are dozens in a second. */
const GATHER_MS = 100;
const news = new Map<string, Job>();
let gathering: ReturnType<typeof setTimeout> | undefined;

/** A list of jobs with some put in their places, or in front when they are new. */
function withJobs(jobs: readonly Job[], some: readonly Job[]): Job[] {
  const left = new Map(some.map((job) => [job.id, job]));
  const known = jobs.map((job) => {
    const now = left.get(job.id) ?? job;
    left.delete(job.id);
    return now;
  });
  return [...left.values(), ...known];
}

/** Shows what was heard of jobs. */
function showNews(client: QueryClient): void {
  const jobs = [...news.values()];
  news.clear();
  gathering = undefined;
  client.setQueryData<Job[]>(['jobs'], (known) => known && withJobs(known, jobs));
  const ended = jobs.filter((j) => j.state !== 'waiting' && j.state !== 'running');
  // A list that is on its way may be older than this, and nothing more is heard of a job that has ended.
  if (ended.length && client.isFetching({ queryKey: ['jobs'] }) > 0) void refresh(client, ['jobs']);
  for (const outingId of new Set(jobs.map((j) => j.outingId))) {
    if (!outingId) continue;
    const intake = jobs.filter((j) => j.outingId === outingId && j.kind !== 'export');
    if (intake.length)
      client.setQueryData<OutingOpened>(
        ['outing', outingId],
        (open) => open && { ...open, intake: withJobs(open.intake, intake) },
      );
    // What came in, and the states of clips, follow.
    if (ended.some((j) => j.outingId === outingId)) void refresh(client, ['outing', outingId]);
  }
}

/** Takes in one event: what is shown follows. */
function receive(client: QueryClient, event: ServerEvent): void {
  if (event.type === 'job') {
    const { job } = event;
    news.set(job.id, job);
    gathering ??= setTimeout(() => showNews(client), GATHER_MS);
    if (job.kind === 'import' && job.state === 'done' && job.message)
      tell({ key: `import ${job.id}`, text: `${job.title}: ${job.message}`, fades: true });
  } else if (event.type === 'shelf' || event.type === 'jobs' || event.type === 'sources' || event.type === 'sharing') {
    void refresh(client, [event.type]);
    if (event.type === 'jobs') void refresh(client, ['queue']);
  } else if (event.type === 'proxy') void refresh(client, ['proxy', event.hash]);
  else if (event.type === 'kept') void refresh(client, ['kept', event.outingId]);
  else {
    void refresh(client, ['outings']);
    void refresh(client, ['outing', event.type === 'outing' ? event.id : event.outingId]);
  }
}

/** The stream that is open; at most one, also when this is begun again in development. */
let source: EventSource | undefined;
let looking: ReturnType<typeof setInterval> | undefined;
let toOpen = OPEN_MS.first;

/**
 * Keeps what is shown up to date with what happens on the server, for as long as the page is open. Begun before the first
 * screen is drawn, so that what it fetches misses nothing and need not be fetched twice. `opened`: called whenever the
 * stream is open (again).
 */
export function followServer(client: QueryClient, listen: (event: ServerEvent) => void, opened: () => void): void {
  source?.close();
  const own = (source = new EventSource('/api/events'));
  const again = (): void => followServer(client, listen, opened);
  const hear = watchSilence(() => {
    // What is asked while it is tried to connect has time until that works.
    if (own.readyState === EventSource.OPEN) {
      stalled(unreachable());
      dropConnections();
    } else toOpen = Math.min(OPEN_MS.most, 2 * toOpen);
    own.close();
    again();
  });
  own.addEventListener(BEAT, ({ data }: MessageEvent<string>) => hear(Number(data)));
  own.onopen = () => {
    hear();
    toOpen = OPEN_MS.first;
    connected();
    // What was fetched before may have changed since.
    void client.invalidateQueries();
    opened();
  };
  own.onerror = () => {
    disconnected();
    // After an answer that is no stream the browser does not try again, nor does it say what was answered.
    if (own.readyState !== EventSource.CLOSED) return;
    clearInterval(looking);
    void api.device().catch(() => undefined);
    setTimeout(again, AGAIN_MS);
  };
  own.onmessage = (message) => {
    hear();
    const event = JSON.parse(message.data as string) as ServerEvent;
    listen(event);
    receive(client, event);
  };
}

/**
 * Connections at rest went dead together with the one that fell silent, and a browser would give them to the next requests one
 * by one: each is given one that is ended, which closes it.
 */
function dropConnections(): void {
  const signal = timeLimit(OPEN_MS.first);
  for (let i = 0; i < OTHER_CONNECTIONS; i++)
    void fetch(`/api/device?${i}`, { cache: 'no-store', signal }).catch(() => undefined);
}

/**
 * Calls `dead` once: when what is returned is not called within {@link toOpen}, or not again within {@link silentAfter}. It takes
 * the milliseconds between beats, where they become known. A page that slept gets time for the next beat.
 */
function watchSilence(dead: () => void): (beatMs?: number) => void {
  clearInterval(looking);
  let heard = Date.now();
  let looked = heard;
  let patience = toOpen;
  let beat = BEAT_MS;
  const own = (looking = setInterval(() => {
    const now = Date.now();
    if (now - looked > 2 * LOOK_MS) heard = Math.max(heard, now - patience + beat + LOOK_MS);
    looked = now;
    if (now - heard <= patience) return;
    clearInterval(own);
    dead();
  }, LOOK_MS));
  return (beatMs = beat) => {
    beat = beatMs;
    patience = silentAfter(beat);
    heard = Date.now();
  };
}
