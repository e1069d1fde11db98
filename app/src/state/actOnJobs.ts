import type { QueryKey } from '@tanstack/react-query';
import type { JobsRequest } from '@inkavo/core/model/job';
import { api } from '../api/client';
import { queries } from '../api/queries';
import { refresh } from '../api/refresh';
import { tellTrouble } from './messages';

/** Stops, retries or forgets jobs, then refetches the lists that show them. `place`: that of the message on failure. */
export const actOnJobs = (act: JobsRequest['act'], ids: string[], place: string, list: QueryKey): void =>
  void api
    .jobsTogether({ ids, act })
    .catch((error: Error) => tellTrouble(place, error.message))
    .finally(() => void refresh(queries, list, true));
