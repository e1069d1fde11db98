import { positionAmong, positionAt } from './order';

test('a place between neighbours, before the first and after the last', () => {
  expect([positionAt([9, 1, 2], 0), positionAt([1, 9, 2], 1), positionAt([1, 2, 9], 2), positionAt([5], 0)]).toEqual([
    0, 1.5, 3, 0,
  ]);
});

const at = (name: string, recordedAt: string | null = null) => ({ name, recordedAt });
/** The order of clips that were imported one after another. */
function broughtIn(clips: ReturnType<typeof at>[]): string[] {
  const list: (ReturnType<typeof at> & { position: number })[] = [];
  for (const clip of clips) {
    list.push({ ...clip, position: positionAmong(list, clip) });
    list.sort((a, b) => a.position - b.position);
  }
  return list.map(({ name }) => name);
}

test('clips that come in lie by their times of recording, whichever is read first', () => {
  expect(
    broughtIn([
      at('c', '2031-06-14T10:00:00Z'),
      at('a', '2031-06-14T12:00:00Z'),
      at('b', '2031-06-14T09:00:00Z'),
      at('d', '2031-06-14T10:30:00+01:00'),
    ]),
  ).toEqual(['b', 'd', 'c', 'a']);
});

test('without times, or at the same time, they lie by name, its numbers as numbers', () => {
  expect(broughtIn([at('clip_10'), at('clip_2'), at('Clip_1')])).toEqual(['Clip_1', 'clip_2', 'clip_10']);
  const time = '2031-06-14T10:00:00Z';
  expect(broughtIn([at('b', time), at('a', time)])).toEqual(['a', 'b']);
});

test('an order that was made by hand is left: a clip goes before later ones at the end only', () => {
  const list = ['z', 'a', 'm', 'x'].map((name, position) => ({ ...at(name), position }));
  expect(positionAmong(list, at('n'))).toBe(2.5);
  expect(positionAmong(list, at('zz'))).toBe(4);
});
