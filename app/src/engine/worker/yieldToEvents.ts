/** A message to itself is queued behind all received ones; a timer would wait for milliseconds. */
const { port1, port2 } = new MessageChannel();
const waiting: (() => void)[] = [];
port1.onmessage = () => waiting.shift()?.();

/** Lets a worker handle received messages first. */
export const yieldToEvents = (): Promise<void> =>
  new Promise((resolve) => {
    waiting.push(resolve);
    port2.postMessage(null);
  });
