/** Messages to itself come after all that have come in before: a timer would wait for milliseconds. */
const { port1, port2 } = new MessageChannel();
const waiting: (() => void)[] = [];
port1.onmessage = () => waiting.shift()?.();

/** Lets a worker do first what has come in for it. */
export const yieldToEvents = (): Promise<void> =>
  new Promise((resolve) => {
    waiting.push(resolve);
    port2.postMessage(null);
  });
