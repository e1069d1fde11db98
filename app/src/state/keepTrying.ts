import { onReconnect } from './connection';

const EVERY_MS = 10_000;

/** Sends what is pending on this device: now, every ten seconds, and on reconnection; until unsubscribed. */
export function keepTrying(send: () => Promise<void>): () => void {
  const look = (): void => void send();
  const timer = setInterval(look, EVERY_MS);
  window.addEventListener('online', look);
  const stop = onReconnect(look);
  look();
  return () => {
    clearInterval(timer);
    stop();
    window.removeEventListener('online', look);
  };
}
