import { existsSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeWhole } from './files';
import { workFolder } from './testClips';

test('a file is there whole, an older one is replaced, and nothing is left beside it', () => {
  const folder = workFolder();
  const path = join(folder, 'a.txt');
  writeWhole(path, 'first');
  writeWhole(path, Buffer.from('second, ü'));
  expect(readFileSync(path, 'utf8')).toBe('second, ü');
  expect(readdirSync(folder)).toEqual(['a.txt']);
});

test('where it cannot be written the older file stays', () => {
  const folder = workFolder();
  const path = join(folder, 'b.txt');
  writeWhole(path, 'kept');
  // A folder in the place of the temporary file.
  mkdirSync(`${path}.part`);
  expect(() => writeWhole(path, 'lost')).toThrow();
  expect(readFileSync(path, 'utf8')).toBe('kept');
  expect(existsSync(path)).toBe(true);
});
