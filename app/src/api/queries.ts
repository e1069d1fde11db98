import { QueryClient } from '@tanstack/react-query';
import { api, isUnanswered } from './client';

/** Retries of a request that got no answer, with delays from {@link RETRY_MS} that double: about six seconds in all. */
const RETRIES = 5;
const RETRY_MS = 200;
/** Interval at which data in use is asked for again after the server could not be reached. */
const AGAIN_MS = 10_000;

/**
 * Server state, shared by all screens. `networkMode`: the browser calls a device without a network offline, and the
 * library would then ask nothing, while a server on the device itself, or reached otherwise, answers as ever.
 */
export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      networkMode: 'always',
      retry: (failures, error) => isUnanswered(error) && failures < RETRIES,
      retryDelay: (failures) => RETRY_MS * 2 ** failures,
      refetchInterval: ({ state }) => (isUnanswered(state.error) ? AGAIN_MS : false),
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
