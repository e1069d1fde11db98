import type { Job } from '@inkavo/core/model/job';
import { intakeRows } from './intakeRows';
import { onTheWay, secondsForAll } from './timeLeft';

const job = (id: string, part: Partial<Job> = {}): Job => ({
  ...{ id, kind: 'import', state: 'waiting', title: `${id}.mp4`, outingId: null, clipId: null, progress: 0 },
  ...{ secondsLeft: null, message: null, bytes: null, pixels: null, framesPerSecond: null, rank: 0, file: null },
  ...{ createdAt: 0 },
  ...part,
});
const many = (n: number, part: Partial<Job>): Job[] =>
  Array.from({ length: n }, (_, k) =>
    job(`${part.kind ?? 'import'}-${part.state ?? 'waiting'}-${k}`, { ...part, rank: k }),
  );
const shown = (jobs: Job[]): string[] =>
  intakeRows(jobs).map((row) => ('jobs' in row ? `${row.jobs.length} ${row.kind} ${row.state}` : row.id));

test('what runs first, then what ended without success, then what waits, the next one first; what is done is not shown', () => {
  const jobs = [
    job('late', { rank: 9 }),
    job('soon', { rank: 2 }),
    job('torn', { state: 'failed', message: 'It is cut off.' }),
    job('runs', { state: 'running', rank: 5 }),
    job('done', { state: 'done' }),
    job('stopped', { state: 'stopped' }),
  ];
  expect(shown(jobs)).toEqual(['runs', 'torn', 'stopped', 'soon', 'late']);
});

test('many that are alike take one row; of those that failed, the ones with the same reason', () => {
  const jobs = [
    ...many(240, {}),
    ...many(3, { kind: 'proxy' }).map((j) => ({ ...j, rank: 500 + j.rank })),
    job('a', { state: 'failed', message: 'It is cut off.', rank: 7 }),
    ...many(5, { state: 'failed', message: 'The file is not there any more: was the card taken out?' }),
    ...many(90, { kind: 'proxy', state: 'stopped', message: 'Stopped.' }),
  ];
  expect(shown(jobs)).toEqual([
    '5 import failed',
    'a',
    '90 proxy stopped',
    '240 import waiting',
    ...['proxy-waiting-0', 'proxy-waiting-1', 'proxy-waiting-2'],
  ]);
  // A row keeps its identity while jobs come and go.
  const keys = (list: Job[]): string[] => intakeRows(list).flatMap((row) => ('jobs' in row ? [row.key] : []));
  expect(keys(many(7, {}))).toEqual(keys(many(200, {})));
});

test('time of many: of those that are told, and the others at their pace', () => {
  const half = job('half', { state: 'running', pixels: 8e9, progress: 0.5, secondsLeft: 40 });
  expect(secondsForAll([half])).toBe(40);
  // 4e9 pixels in 40 s: 12e9 more in 120 s.
  expect(secondsForAll([half, job('more', { pixels: 12e9 })])).toBeCloseTo(160, 9);
  expect(secondsForAll([half, job('told', { pixels: 12e9, secondsLeft: 100 })])).toBeCloseTo(140, 9);
  expect(secondsForAll([job('more', { pixels: 12e9 })])).toBeNull();
  expect(secondsForAll([])).toBeNull();
});

test('copies and files that are sent go beside each other: the longer of the two is told', () => {
  const copies = [
    job('a', { state: 'running', bytes: 100e6, progress: 0.5, secondsLeft: 10 }),
    job('b', { bytes: 50e6 }),
    job('proxy', { kind: 'proxy', pixels: 1e9, secondsLeft: 500 }),
  ];
  expect(onTheWay(copies, [])).toEqual({ files: 2, bytes: 100e6, secondsLeft: 20 });
  const sending = {
    ...{ id: 's', outingId: 'o', name: 's.mp4', files: 1, bytes: 80e6, progress: 0.25, state: 'sending' as const },
    ...{ bytesPerSecond: 2e6, message: null, stop: () => undefined },
  };
  expect(onTheWay(copies, [sending as never])).toEqual({ files: 3, bytes: 160e6, secondsLeft: 30 });
  // The size of one of them is unknown.
  expect(onTheWay([...copies, job('c')], []).secondsLeft).toBeNull();
  expect(onTheWay([job('c')], [])).toEqual({ files: 1, bytes: 0, secondsLeft: null });
  expect(onTheWay([job('b', { bytes: 50e6 })], [])).toEqual({ files: 1, bytes: 50e6, secondsLeft: null });
});
