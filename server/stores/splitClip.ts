import type { Knex } from 'knex';
import type { z } from 'zod';
import { positionBehind } from '@inkavo/core/model/order';
import { usualFrame, type splitRequest } from '@inkavo/core/model/outing';
import { badRequest } from '../http/problems';
import type { ClipRow } from './clips';

/** An unused variation of a name: with the next number before its extension. */
function nameBeside(name: string, taken: readonly string[]): string {
  const [, stem, ending] = /^(.*?)(?: \d+)?(\.\w{2,4})?$/s.exec(name)!;
  for (let n = 2; ; n += 1) {
    const free = `${stem} ${n}${ending ?? ''}`;
    if (!taken.includes(free)) return free;
  }
}

/** In, out and representative frame of a part of a clip: the clip's own if they lie in it. */
const partOf = ({ reference_frame: own }: ClipRow, from: number, to: number) => ({
  in_frame: from,
  out_frame: to,
  reference_frame: own >= from && own <= to ? own : from + usualFrame(to - from + 1),
});

/**
 * Splits a clip: it ends before a frame, and another one with the same steps continues from there. If a clip with this
 * id was split off before and removed, it is restored. Throws 400 if one side would be empty.
 */
export async function splitClip(
  id: string,
  { frame, as }: z.infer<typeof splitRequest>,
  trx: Knex.Transaction,
): Promise<void> {
  const row = (await trx<ClipRow>('clips').where({ id }).first())!;
  const { in_frame: first, out_frame: last, outing_id, hash } = row;
  if (frame <= first || frame > last)
    throw badRequest(`Nothing is left on one side: a cut lies after frame ${first}, up to frame ${last}.`);
  const rest = { ...partOf(row, frame, last), removed_at: null };
  const known = await trx<ClipRow>('clips').where({ id: as }).first();
  if (known && (known.hash !== hash || known.outing_id !== outing_id || known.removed_at === null))
    throw badRequest('as: there is another clip of this id.');
  if (known) await trx('clips').where({ id: as }).update(rest);
  else {
    const others = await trx<ClipRow>('clips').where({ outing_id }).orderBy('position').select('name', 'position');
    const [names, positions] = [others.map((o) => o.name), others.map((o) => o.position)];
    const own = { id: as, name: nameBeside(row.name, names), position: positionBehind(positions, row.position) };
    await trx('clips').insert({ ...row, ...rest, ...own, checked: 0, revision: 0 });
  }
  await trx('clips')
    .where({ id })
    .update(partOf(row, first, frame - 1));
}
