import { QueryClient } from '@tanstack/react-query';
import { api } from './client';

/** Server state, shared by all screens. */
export const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 30_000, retry: 1 } } });

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
