import { QueryClient } from '@tanstack/react-query';
import { useConnection } from '../state/connection';
import { api, isUnanswered } from './client';

/**
 * Retries of a request that got no answer, with delays from {@link RETRY_MS} that double: about six seconds in all. None
 * while the event stream is down as well: then all is fetched again on reconnection, and the user should know at once.
 */
const RETRIES = 5;
const RETRY_MS = 200;
/** Interval at which data in use is fetched again if only its own requests get no answer. */
const AGAIN_MS = 10_000;
const isOnline = (): boolean => useConnection.getState().online;

/**
 * Server state, shared by all screens. `networkMode`: the browser calls a device without a network offline, and the
 * library would then ask nothing, while a server on the device itself, or reached otherwise, answers as ever.
 */
export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      networkMode: 'always',
      retry: (failures, error) => isUnanswered(error) && isOnline() && failures < RETRIES,
      retryDelay: (failures) => RETRY_MS * 2 ** failures,
      refetchInterval: ({ state }) => (isUnanswered(state.error) && isOnline() ? AGAIN_MS : false),
    },
  },
});

/** An outing with its clips. */
export const outingQuery = (id: string) => ({ queryKey: ['outing', id], queryFn: () => api.outing(id) });

/** Playable parts of an unfinished proxy. */
export const proxyPartsQuery = ({ id, hash }: { id: string; hash: string }) => ({
  queryKey: ['proxy', hash],
  queryFn: () => api.proxyParts(id),
});

/** Prefetches the outing of a path while its screen is being created. */
export function fetchAhead(path: string): void {
  const [screen, id] = path.split('/').filter(Boolean);
  if (screen === 'outing' && id) void queries.prefetchQuery(outingQuery(id));
}
