import { QueryClient } from '@tanstack/react-query';

/** What was fetched from the server, shared by all screens. */
export const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 30_000, retry: 1 } } });
