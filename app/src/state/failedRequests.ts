import { ApiError, unreachable } from '../api/client';
import { onReconnect } from './connection';
import { dropMessages, tellTrouble } from './messages';

const KEY = 'failed request';

/**
 * Reports failed requests that nothing else reports, so that every tap gets a response. Messages that the server cannot
 * be reached, from wherever, go when it is.
 */
export function tellFailedRequests(): void {
  window.addEventListener('unhandledrejection', (event) => {
    if (!(event.reason instanceof ApiError)) return;
    event.preventDefault();
    tellTrouble(KEY, event.reason.message);
  });
  onReconnect(() => dropMessages(({ key, text }) => key === KEY || text === unreachable().message));
}
