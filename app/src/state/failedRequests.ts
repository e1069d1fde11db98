import { ApiError } from '../api/client';
import { onReconnect } from './connection';
import { dropMessage, tellTrouble } from './messages';

const KEY = 'failed request';

/** Says when a request failed that nothing else says it of: no tap stays without an answer. */
export function tellFailedRequests(): void {
  window.addEventListener('unhandledrejection', (event) => {
    if (!(event.reason instanceof ApiError)) return;
    event.preventDefault();
    tellTrouble(KEY, event.reason.message);
  });
  onReconnect(() => dropMessage(KEY));
}
