import { nanoid } from 'nanoid/non-secure';
import { TAB } from './deviceLog';

/** Time-out after which a page counts as closed. Pages in the background respond too: messages are not throttled. */
const ANSWER_MS = 1000;

type Note = { ask: string; from: string } | { here: string };

const channel = typeof BroadcastChannel === 'undefined' ? undefined : new BroadcastChannel('inkavo-tabs');
channel?.addEventListener('message', ({ data }: MessageEvent<Note>) => {
  if ('ask' in data && data.ask === TAB) channel.postMessage({ here: data.from } satisfies Note);
});

/** Whether another page of this browser is still open. */
export function isOpen(tab: string): Promise<boolean> {
  if (tab === TAB) return Promise.resolve(true);
  if (!channel) return Promise.resolve(false);
  const from = nanoid(10);
  return new Promise((resolve) => {
    const end = (open: boolean): void => {
      clearTimeout(timer);
      channel.removeEventListener('message', listen);
      resolve(open);
    };
    const listen = ({ data }: MessageEvent<Note>): void => {
      if ('here' in data && data.here === from) end(true);
    };
    const timer = setTimeout(() => end(false), ANSWER_MS);
    channel.addEventListener('message', listen);
    channel.postMessage({ ask: tab, from } satisfies Note);
  });
}
