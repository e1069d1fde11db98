import { readdirSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { PictureFiles } from './pictureFiles';
import { tempFolder, until } from './testServer';

const folder = tempFolder();
const files = new PictureFiles({ picture: (digest) => join(folder, digest) });
const format: PlanarFormat = {
  ...{ width: 37, height: 11, depth: 16, chroma: '444' },
  ...{ range: 'limited', matrix: 'bt709', chromaSite: 'left' },
};
const samples = Uint16Array.from({ length: 37 * 11 * 3 }, (_, i) => (i * 7919) % 65536);
const picture = planesOver(samples.buffer, format);
const written = async (): Promise<string> => {
  const [name] = await until(
    async () => readdirSync(folder).filter((n) => !n.endsWith('.part')),
    (names) => names.length === 1,
  );
  return join(folder, name);
};

test('a picture comes back as it was kept, to ten bits, and takes less room', async () => {
  const kept = files.keep('a', picture);
  const path = await written();
  const again = await files.get('a');
  expect(again).toEqual(kept);
  expect(again!.format).toEqual(format);
  for (const plane of ['y', 'cb', 'cr'] as const)
    picture[plane].forEach((v, i) => {
      expect(Math.abs(again![plane][i] - v)).toBeLessThanOrEqual(v > 65_440 ? 63 : 32);
      expect(again![plane][i] % 64).toBe(0);
    });
  expect(statSync(path).size).toBeLessThan(samples.byteLength);
});

test('what is missing, torn or of another kind counts as missing', async () => {
  expect(await files.get('b')).toBeUndefined();
  const path = await written();
  truncateSync(path, 100);
  expect(await files.get('a')).toBeUndefined();
  writeFileSync(path, 'no picture');
  expect(await files.get('a')).toBeUndefined();
});
