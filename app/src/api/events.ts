import type { QueryClient } from '@tanstack/react-query';
import { BEAT, BEAT_MS, type ServerEvent } from '@inkavo/core/model/events';
import type { Job } from '@inkavo/core/model/job';
import { connected, disconnected, stalled } from '../state/connection';
import { tell } from '../state/messages';
import { api, unreachable, type OutingOpened } from './client';
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

/** A list of jobs with one put in its place, or in front when it is new. */
const withJob = (jobs: Job[], job: Job): Job[] =>
  jobs.some((j) => j.id === job.id) ? jobs.map((j) => (j.id === job.id ? job : j)) : [job, ...jobs];

/** Takes in one event: what is shown follows. */
function receive(client: QueryClient, event: ServerEvent): void {
  if (event.type === 'job') {
    const { job } = event;
    client.setQueryData<Job[]>(['jobs'], (jobs) => jobs && withJob(jobs, job));
    const ended = job.state !== 'waiting' && job.state !== 'running';
    // A list that is on its way may be older than this, and nothing more is heard of a job that has ended.
    if (ended && client.isFetching({ queryKey: ['jobs'] }) > 0) void client.invalidateQueries({ queryKey: ['jobs'] });
    if (!job.outingId) return;
    if (job.kind === 'export') {
      // The clip's state in the list follows.
      if (ended) void client.invalidateQueries({ queryKey: ['outing', job.outingId] });
      return;
    }
    if (job.kind === 'import' && job.state === 'done' && job.message)
      tell({ key: `import ${job.id}`, text: `${job.title}: ${job.message}`, fades: true });
    client.setQueryData<OutingOpened>(
      ['outing', job.outingId],
      (open) => open && { ...open, intake: withJob(open.intake, job) },
    );
    if (ended) void client.invalidateQueries({ queryKey: ['outing', job.outingId] });
  } else if (event.type === 'shelf' || event.type === 'jobs' || event.type === 'sources' || event.type === 'sharing') {
    void client.invalidateQueries({ queryKey: [event.type] });
    if (event.type === 'jobs') void client.invalidateQueries({ queryKey: ['queue'] });
  } else if (event.type === 'proxy') void client.invalidateQueries({ queryKey: ['proxy', event.hash] });
  else if (event.type === 'kept') void client.invalidateQueries({ queryKey: ['kept', event.outingId] });
  else {
    void client.invalidateQueries({ queryKey: ['outings'] });
    void client.invalidateQueries({ queryKey: ['outing', event.type === 'outing' ? event.id : event.outingId] });
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
