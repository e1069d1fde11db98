import type { QueryClient } from '@tanstack/react-query';
import { BEAT, BEAT_MS, type ServerEvent } from '@inkavo/core/model/events';
import type { Job } from '@inkavo/core/model/job';
import { connected, disconnected, stalled } from '../state/connection';
import { tell } from '../state/messages';
import { api, unreachable, type OutingOpened } from './client';
import { refresh } from './refresh';
import { timeLimit } from './timeLimit';

const AGAIN_MS = 3000;
/**
 * A stream that is silent for longer than this many heartbeats is dead, even if still open: three, plus network delay.
 */
const silentAfter = (beatMs: number): number => 3 * beatMs + 1000;
/**
 * Time-out for opening a stream; browsers retry lost attempts ever less often. It doubles with each attempt, up to a
 * maximum, for networks that are merely slow.
 */
const OPEN_MS = { first: 6000, most: 24_000 };
const LOOK_MS = 2000;
/**
 * Number of connections that a browser keeps to a server (HTTP/1.1) besides the stream's: from memory, equal in all
 * engines.
 */
const OTHER_CONNECTIONS = 5;

/** Milliseconds over which job events are collected: dozens per second arrive while a card is imported. */
const GATHER_MS = 100;
const news = new Map<string, Job>();
let gathering: ReturnType<typeof setTimeout> | undefined;

/** A list of jobs with updated ones replaced, and new ones in front. */
function withJobs(jobs: readonly Job[], some: readonly Job[]): Job[] {
  const left = new Map(some.map((job) => [job.id, job]));
  const known = jobs.map((job) => {
    const now = left.get(job.id) ?? job;
    left.delete(job.id);
    return now;
  });
  return [...left.values(), ...known];
}

/** Applies collected job events. */
function showNews(client: QueryClient): void {
  const jobs = [...news.values()];
  news.clear();
  gathering = undefined;
  client.setQueryData<Job[]>(['jobs'], (known) => known && withJobs(known, jobs));
  const ended = jobs.filter((j) => j.state !== 'waiting' && j.state !== 'running');
  // A list that is being fetched may be older than these events, and finished jobs send no further ones.
  if (ended.length && client.isFetching({ queryKey: ['jobs'] }) > 0) void refresh(client, ['jobs']);
  for (const outingId of new Set(jobs.map((j) => j.outingId))) {
    if (!outingId) continue;
    const intake = jobs.filter((j) => j.outingId === outingId && j.kind !== 'export');
    if (intake.length)
      client.setQueryData<OutingOpened>(
        ['outing', outingId],
        (open) => open && { ...open, intake: withJobs(open.intake, intake) },
      );
    // Imported clips and states of clips follow.
    if (ended.some((j) => j.outingId === outingId)) void refresh(client, ['outing', outingId]);
  }
}

/** Handles an event by updating or invalidating queries. */
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

/** The open stream; at most one, even when started twice in development. */
let source: EventSource | undefined;
let looking: ReturnType<typeof setInterval> | undefined;
let toOpen = OPEN_MS.first;

/**
 * Keeps queries up to date with server events while the page is open. Started before the first render, so that fetched
 * data misses no event and is not fetched twice. `opened`: called whenever the stream is (re)opened.
 */
export function followServer(client: QueryClient, listen: (event: ServerEvent) => void, opened: () => void): void {
  source?.close();
  const own = (source = new EventSource('/api/events'));
  const again = (): void => followServer(client, listen, opened);
  const hear = watchSilence(() => {
    // Requests made while connecting have until the connection succeeds.
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
    void connected().then(() => {
      // Data fetched earlier may have changed.
      void client.invalidateQueries();
      opened();
    });
  };
  own.onerror = () => {
    disconnected();
    // After a response that is not a stream browsers do not retry, nor report its status.
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
 * Idle connections died together with the silent one, and a browser would reuse them for the next requests one by one:
 * give each an aborted request, which closes it.
 */
function dropConnections(): void {
  const signal = timeLimit(OPEN_MS.first);
  for (let i = 0; i < OTHER_CONNECTIONS; i++)
    void fetch(`/api/device?${i}`, { cache: 'no-store', signal }).catch(() => undefined);
}

/**
 * Watchdog: calls `dead` once if the returned function is not called within {@link toOpen}, or not again within {@link
 * silentAfter}. The function takes the heartbeat interval in milliseconds, when known. A page that was suspended gets
 * time for the next heartbeat.
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
    // The device's clock was set back.
    else if (now < looked) heard = Math.min(heard, now);
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
