import { coalesce } from './coalesce';

test('only the newest of the requests that wait is done', async () => {
  const done: number[] = [];
  const release: (() => void)[] = [];
  const run = coalesce(async (n: number) => {
    done.push(n);
    await new Promise<void>((resolve) => release.push(resolve));
  });
  [1, 2, 3, 4].forEach((n) => run(n));
  expect(done).toEqual([1]);
  release[0]();
  await Promise.resolve();
  await new Promise((r) => setTimeout(r));
  expect(done).toEqual([1, 4]);
  release[1]();
  await run.settled();
  expect(done).toEqual([1, 4]);
});

test('one that fails does not stop the next', async () => {
  const error = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  const done: number[] = [];
  const run = coalesce(async (n: number) => {
    if (n === 1) throw new Error('no');
    done.push(n);
  });
  run(1);
  run(2);
  await run.settled();
  expect(done).toEqual([2]);
  expect(error).toHaveBeenCalledTimes(1);
  error.mockRestore();
});
