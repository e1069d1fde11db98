import { QueryClient } from '@tanstack/react-query';
import { api } from './client';

/** What was fetched from the server, shared by all screens. */
export const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 30_000, retry: 1 } } });

/** An outing with its clips. */
export const outingQuery = (id: string) => ({ queryKey: ['outing', id], queryFn: () => api.outing(id) });

/** What there is of a proxy that is being made in parts. */
export const proxyPartsQuery = ({ id, hash }: { id: string; hash: string }) => ({
  queryKey: ['proxy', hash],
  queryFn: () => api.proxyParts(id),
});

/** Begins to fetch the outing at a path, while its screen is still being made. */
export function fetchAhead(path: string): void {
  const [screen, id] = path.split('/').filter(Boolean);
  if (screen === 'outing' && id) void queries.prefetchQuery(outingQuery(id));
}
