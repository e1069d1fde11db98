import { linkSync } from 'node:fs';
import { createHash } from 'node:crypto';
import type { Camera, Clip, Outing } from '@inkavo/core/model/outing';
import Database from 'better-sqlite3';
import { Library } from './config';
import type { Client } from './testServer';

/**
 * Fills an outing with this many clips of three cameras, each with its own hard link to the file of an imported clip.
 */
export async function manyClips(
  { client, data }: { client: Client; data: string },
  model: Clip,
  count: number,
): Promise<Outing> {
  const outing = await client.post<Outing>('/outings', { name: 'Long day', date: '2031-06-15' });
  const cameras: Camera[] = [];
  for (const name of ['Bow camera', 'Kite camera', 'Mast camera'])
    cameras.push(await client.post<Camera>(`/outings/${outing.id}/cameras`, { name }));
  const library = new Library(data);
  const db = new Database(library.database);
  const media = db.prepare('select * from media where hash = ?').get(model.hash) as Record<string, unknown>;
  const row = db.prepare('select * from clips where id = ?').get(model.id) as Record<string, unknown>;
  const insert = (table: string, values: Record<string, unknown>): void => {
    const keys = Object.keys(values);
    db.prepare(`insert into ${table} (${keys.join()}) values (${keys.map(() => '?').join()})`).run(
      ...Object.values(values),
    );
  };
  db.transaction(() => {
    for (let i = 0; i < count; i += 1) {
      const hash = createHash('sha256').update(`${model.hash} ${i}`).digest('hex');
      linkSync(library.original(model.hash), library.original(hash));
      insert('media', { ...media, hash });
      insert('clips', {
        ...row,
        id: `many-${i}`,
        outing_id: outing.id,
        camera_id: cameras[i % 3].id,
        hash,
        name: `pass_${String(i + 1).padStart(3, '0')}.mp4`,
        position: i,
        steps: '[]',
      });
    }
  })();
  db.close();
  return outing;
}
