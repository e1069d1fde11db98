import { create } from 'zustand';

/** Something that a person should know now, over whatever is on the screen. */
export interface Message {
  /** A message with the key of another one takes its place. */
  key: string;
  text: string;
  actions?: { title: string; strong?: boolean; run(): void }[];
  /** Goes by itself after a while. */
  fades?: boolean;
}

/** How long a message stays that goes by itself: as long as it takes to read it, and longer where there is something to tap. */
const FADES_MS = { said: 4000, letter: 60, asking: 10_000 };

export const useMessages = create<{ list: Message[] }>(() => ({ list: [] }));

export function dropMessage(key: string): void {
  useMessages.setState(({ list }) =>
    list.some((m) => m.key === key) ? { list: list.filter((m) => m.key !== key) } : {},
  );
}

export function tell(message: Message): void {
  useMessages.setState(({ list }) => ({ list: [...list.filter((m) => m.key !== message.key), message] }));
  if (message.fades)
    setTimeout(
      () => useMessages.getState().list.includes(message) && dropMessage(message.key),
      message.actions ? FADES_MS.asking : Math.max(FADES_MS.said, FADES_MS.letter * message.text.length),
    );
}

/** A sentence about something that did not work; it stays until it is closed or works again. */
export const tellTrouble = (key: string, text: string): void => tell({ key, text });
