import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { copyHashed, linkHashed } from './copyHashed';

const folder = mkdtempSync(join(tmpdir(), 'inkavo-copy-'));
/** A memory file system, if there is one: another file system, to which no hard links are possible. */
const elsewhere = existsSync('/dev/shm') ? mkdtempSync('/dev/shm/inkavo-copy-') : folder;
afterAll(() => [folder, elsewhere].forEach((path) => rmSync(path, { recursive: true, force: true })));

const content = randomBytes(5_000_000);
const sum = createHash('sha256').update(content).digest('hex');
const from = join(folder, 'from');
writeFileSync(from, content);
const working = () => {
  const told: number[] = [];
  return { told, work: { signal: new AbortController().signal, progress: (share: number) => void told.push(share) } };
};

test('a file of one’s own is linked, not copied, over what is left of an earlier attempt', async () => {
  const to = join(folder, 'linked');
  writeFileSync(to, 'half');
  const { told, work } = working();
  expect(await linkHashed(from, to, work)).toBe(sum);
  expect(statSync(to).ino).toBe(statSync(from).ino);
  expect(told.length).toBeGreaterThan(1);
  expect(told).toEqual(told.toSorted((a, b) => a - b));
});

test('a copy is another file; where nothing can be linked, a copy is made', async () => {
  for (const [how, to] of [
    [copyHashed, join(folder, 'copied')],
    [linkHashed, join(elsewhere, 'copied')],
  ] as const) {
    if (how === linkHashed && elsewhere === folder) continue;
    expect(await how(from, to, working().work)).toBe(sum);
    expect(readFileSync(to).equals(content)).toBe(true);
    expect(statSync(to).dev === statSync(from).dev && statSync(to).ino === statSync(from).ino).toBe(false);
  }
});
