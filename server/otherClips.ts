import { shrink } from '@inkavo/core/fields/smallPicture';
import type { Clip } from '@inkavo/core/model/outing';
import { gridOf } from '@inkavo/core/reading/grid';
import { sightOf, type Sight } from '@inkavo/core/reading/recognise';
import type { Parts } from './parts';
import { TILE_WIDTH } from './thumbs';

/** Of so many beside it so many are seen: more tell little more, and each takes some ten milliseconds. */
const BESIDE = 12;
const MOST = 5;

/**
 * What is seen of other clips of a clip's camera, of the same depth and transfer tag, those next to it first: by the frame that
 * stands for each, whose small picture its tile is drawn from. One whose tile was never drawn is left out: nobody waits for a
 * decoder here.
 */
export async function otherClipsOf(
  clip: Clip,
  { clips, frames }: Pick<Parts, 'clips' | 'frames'>,
  signal: AbortSignal,
): Promise<Sight[]> {
  const list = await clips.ofOuting(clip.outingId);
  const here = list.findIndex((c) => c.id === clip.id);
  const near = list
    .map((c, i) => ({ id: c.id, hash: c.hash, cameraId: c.cameraId, away: Math.abs(i - here) }))
    // Parts of the same recording bear witness to nothing else.
    .filter((c) => c.cameraId === clip.cameraId && c.hash !== clip.hash)
    .toSorted((a, b) => a.away - b.away)
    .slice(0, BESIDE);
  const found: Sight[] = [];
  for (const { id } of near) {
    if (found.length === MOST || signal.aborted) break;
    const other = await clips.get(id);
    const { facts, hash, referenceFrame: frame } = other;
    if (facts.depth !== clip.facts.depth || facts.tags.transfer !== clip.facts.tags.transfer) continue;
    const picture = await frames.keptSmall({ hash, frame, width: TILE_WIDTH });
    if (picture) found.push(sightOf([gridOf(shrink(picture))], facts.depth));
  }
  return found;
}
