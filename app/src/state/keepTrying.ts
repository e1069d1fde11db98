import { onReconnect } from './connection';

const EVERY_MS = 10_000;

/** Sends what waits on this device: now, every ten seconds, and when the network or the server is back; until what is returned is called. */
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
