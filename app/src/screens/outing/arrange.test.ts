import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import { between, filtered, rowsOf } from './arrange';

const camera = (id: string): Camera => ({ id, name: `${id} camera` }) as Camera;
const cameras = ['bow', 'kite', 'mast'].map(camera);
const clip = (id: string, cameraId: string, state: ListedClip['state'] = 'new'): ListedClip =>
  ({ id, name: `${id}.mp4`, cameraId, state }) as ListedClip;
const clips = [
  clip('a1', 'bow'),
  clip('b1', 'kite', 'checked'),
  clip('a2', 'bow', 'work'),
  clip('a3', 'bow'),
  clip('c1', 'mast', 'exported'),
];
const shape = (rows: ReturnType<typeof rowsOf>) =>
  rows.map((row) => row.map((s) => `${s.heading ? s.camera!.id : ''}:${s.clips.map((c) => c.id).join()}`).join(' | '));

test('by camera each begins with a heading; small groups share a row, large ones go on in the next', () => {
  expect(shape(rowsOf(clips, cameras, 'camera', 5))).toEqual(['bow:a1,a2,a3 | kite:b1 | mast:c1']);
  expect(shape(rowsOf(clips, cameras, 'camera', 2))).toEqual(['bow:a1,a2', ':a3', 'kite:b1 | mast:c1']);
  expect(shape(rowsOf(clips, cameras, 'camera', 1))).toEqual(['bow:a1', ':a2', ':a3', 'kite:b1', 'mast:c1']);
});

test('in order they stand as they were put, whatever their camera', () => {
  expect(shape(rowsOf(clips, cameras, 'order', 2))).toEqual([':a1,b1', ':a2,a3', ':c1']);
  expect(rowsOf([], cameras, 'order', 3)).toEqual([]);
});

test('they are found by words of their name or camera, all of which must fit, and by state', () => {
  const ids = (search: string, state: ListedClip['state'] | null = null): string[] =>
    filtered(clips, cameras, { search, state }).map((c) => c.id);
  expect(ids('BOW a')).toEqual(['a1', 'a2', 'a3']);
  expect(ids(' camera  b1 ')).toEqual(['b1']);
  expect(ids('', 'exported')).toEqual(['c1']);
  expect(ids('bow', 'checked')).toEqual([]);
});

test('a range goes both ways; where one end is not shown any more it is the other alone', () => {
  expect(between(clips, 'b1', 'a3')).toEqual(['b1', 'a2', 'a3']);
  expect(between(clips, 'a3', 'b1')).toEqual(['b1', 'a2', 'a3']);
  expect(between(clips, 'gone', 'a2')).toEqual(['a2']);
});
