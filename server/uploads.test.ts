import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Job } from '@inkavo/core/model/job';
import type { Outing } from '@inkavo/core/model/outing';
import { frameSums, make, QUICK_H264 } from '@inkavo/media/testClips';
import { spawnServer, tempFolder, until, type ServerProcess } from './testServer';
import { createUpload, sendFile } from './testUploads';

const [folder, data] = [tempFolder(), tempFolder()];
let server: ServerProcess;

const chapter = (name: string, from: number, size = '320x180'): string =>
  make(
    join(folder, name),
    `testsrc2=size=${size}:rate=25:duration=3,trim=start=${from}:end=${from + 1},setpts=PTS-STARTPTS`,
    QUICK_H264,
  );
const chapters = [0, 1, 2].map((i) => chapter(`KY0${i + 1}0003.mp4`, i));

beforeAll(async () => {
  server = await spawnServer(data, folder);
});
afterAll(() => server.kill());

const pullThePlug = async (): Promise<void> => {
  await server.kill();
  server = await spawnServer(data, folder);
};
const newOuting = (): Promise<Outing> => server.client.post<Outing>('/outings', { name: 'Day', date: '2031-06-14' });
const uploads = (): string[] => readdirSync(join(data, 'uploads'));

const send = (path: string, metadata: Record<string, string>, bytes?: number): Promise<string> =>
  sendFile(server.client.address, path, metadata, bytes);
const metadataOf = (outing: Outing, i: number, first?: string): Record<string, string> => ({
  ...{ filename: `KY0${i + 1}0003.mp4`, outing: outing.id, camera: 'Kayak', kind: 'action' },
  ...{ chapters: '3', chapter: String(i), ...(first ? { first } : {}) },
});

test('chapters that are sent come in as one recording, when the last has arrived; a crash between them loses none', async () => {
  const outing = await newOuting();
  const first = await send(chapters[0], metadataOf(outing, 0));
  // The third before the second: their number decides.
  await send(chapters[2], metadataOf(outing, 2, first));
  await pullThePlug();
  expect((await server.client.get<{ intake: Job[] }>(`/outings/${outing.id}`)).intake).toEqual([]);
  expect(uploads()).toHaveLength(4);
  await send(chapters[1], metadataOf(outing, 1, first));
  const [clip] = await until(
    () => server.client.clips(outing.id),
    (list) => list.length === 1 && list[0].proxy === 'ready',
  );
  expect(clip).toMatchObject({ name: 'KY010003.mp4', facts: { frames: 75 } });
  expect(frameSums(join(data, 'originals', clip.hash))).toEqual(chapters.flatMap((path) => frameSums(path)));
  const { cameras } = await server.client.get<{ cameras: object[] }>(`/outings/${outing.id}`);
  expect(cameras).toMatchObject([{ name: 'Kayak', kind: 'action' }]);
  expect(uploads()).toEqual([]);
});

test('one that was begun twice is taken once, and a chapter that is torn off holds nothing up for others', async () => {
  const outing = await newOuting();
  const first = await send(chapters[0], metadataOf(outing, 0));
  await send(chapters[1], metadataOf(outing, 1, first), 1000);
  await send(chapters[2], metadataOf(outing, 2, first));
  await send(chapters[0], { filename: 'alone.mp4', outing: outing.id });
  await until(
    () => server.client.clips(outing.id),
    (list) => list.some((c) => c.name === 'alone.mp4'),
  );
  await send(chapters[1], metadataOf(outing, 1, first));
  const clips = await until(
    () => server.client.clips(outing.id),
    (list) => list.length === 2,
  );
  expect(clips.map((c) => c.facts.frames).sort((a, b) => a - b)).toEqual([25, 75]);
});

test('chapters that do not fit are named as they were called, and nothing is brought in', async () => {
  const outing = await newOuting();
  const first = await send(chapters[0], { ...metadataOf(outing, 0), chapters: '2' });
  await send(chapter('other.mp4', 1, '160x90'), { ...metadataOf(outing, 1, first), chapters: '2' });
  const { intake } = await until(
    () => server.client.get<{ intake: Job[] }>(`/outings/${outing.id}`),
    ({ intake: jobs }) => jobs[0]?.state === 'failed',
  );
  expect(intake[0].message).toMatch(/KY020003\.mp4 has another size than KY010003\.mp4/);
  expect(await server.client.clips(outing.id)).toEqual([]);
});

test('uploads without a name or an outing are refused with a sentence', async () => {
  expect((await createUpload(server.client.address, 10, { filename: 'a.mp4' })).status).toBe(400);
  const res = await createUpload(server.client.address, 10, { filename: 'a.mp4', outing: 'nowhere' });
  expect(res.status).toBe(404);
});
