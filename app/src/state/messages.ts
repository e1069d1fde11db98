import { create } from 'zustand';

/** A message shown over any screen. */
export interface Message {
  /** A message replaces an earlier one with the same key. */
  key: string;
  text: string;
  actions?: { title: string; strong?: boolean; run(): void }[];
  /** Disappears after a while. */
  fades?: boolean;
}

/** Display time of a temporary message: its reading time, longer with buttons. */
const FADES_MS = { said: 4000, letter: 60, asking: 10_000 };

export const useMessages = create<{ list: Message[] }>(() => ({ list: [] }));

export const dropMessages = (which: (message: Message) => boolean): void =>
  useMessages.setState(({ list }) => (list.some(which) ? { list: list.filter((m) => !which(m)) } : {}));

export const dropMessage = (key: string): void => dropMessages((m) => m.key === key);

export function tell(message: Message): void {
  useMessages.setState(({ list }) => ({ list: [...list.filter((m) => m.key !== message.key), message] }));
  if (message.fades)
    setTimeout(
      () => useMessages.getState().list.includes(message) && dropMessage(message.key),
      message.actions ? FADES_MS.asking : Math.max(FADES_MS.said, FADES_MS.letter * message.text.length),
    );
}

/** A message about a failure, shown until closed or resolved. */
export const tellTrouble = (key: string, text: string): void => tell({ key, text });
