import { ApiError } from '../api/client';
import { onReconnect } from './connection';
import { dropMessage, tellTrouble } from './messages';

const KEY = 'failed request';

/** Reports failed requests that nothing else reports, so that every tap gets a response. */
export function tellFailedRequests(): void {
  window.addEventListener('unhandledrejection', (event) => {
    if (!(event.reason instanceof ApiError)) return;
    event.preventDefault();
    tellTrouble(KEY, event.reason.message);
  });
  onReconnect(() => dropMessage(KEY));
}
