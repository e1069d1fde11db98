import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { refresh } from './refresh';

const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
let client: QueryClient;
beforeEach(() => (client = new QueryClient()));
afterEach(() => client.clear());

/** A resource on a server that takes this long to respond, with its state at the time of the request. */
function watched(key: string, answerMs: number) {
  const server = { value: 0, asked: 0 };
  const seen: number[] = [];
  const observer = new QueryObserver(client, {
    queryKey: [key],
    async queryFn() {
      server.asked += 1;
      const { value } = server;
      await sleep(answerMs);
      return value;
    },
  });
  const leave = observer.subscribe(({ data }) => data !== undefined && data !== seen.at(-1) && seen.push(data));
  return { server, seen, leave };
}

test('answers that take longer than the time between two changes arrive all the same, and the last state does', async () => {
  const { server, seen, leave } = watched('slow', 300);
  await sleep(350);
  for (let k = 1; k <= 20; k += 1) {
    server.value = k;
    void refresh(client, ['slow']);
    await sleep(100);
  }
  // Within two seconds of changes some of them were shown.
  expect(seen.length).toBeGreaterThan(2);
  expect(server.asked).toBeLessThan(8);
  await sleep(2600);
  expect(seen.at(-1)).toBe(20);
  leave();
}, 10_000);

test('one change is fetched at once, and once', async () => {
  const { server, seen, leave } = watched('one', 10);
  await sleep(50);
  server.value = 7;
  void refresh(client, ['one']);
  await sleep(60);
  expect(seen).toEqual([0, 7]);
  await sleep(600);
  expect(server.asked).toBe(2);
  leave();
});

test('what a person changed here is fetched at once, also while others’ changes go on', async () => {
  const { server, seen, leave } = watched('busy', 10);
  await sleep(50);
  for (let k = 1; k <= 30; k += 1) {
    server.value = k;
    void refresh(client, ['busy']);
    await sleep(50);
  }
  // By now the delay is longer than half a second.
  server.value = 99;
  void refresh(client, ['busy'], true);
  await sleep(100);
  expect(seen.at(-1)).toBe(99);
  leave();
});
