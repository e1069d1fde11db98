import { downsample } from '@inkavo/core/fields/smallPicture';
import type { Clip } from '@inkavo/core/model/outing';
import { gridOf } from '@inkavo/core/reading/grid';
import { sightOf, type Sight } from '@inkavo/core/reading/recognise';
import type { Parts } from './parts';
import { TILE_WIDTH } from './thumbs';

/**
 * Number of neighbouring clips considered, and of those used: more add little, and each takes some ten milliseconds.
 */
const BESIDE = 12;
const MOST = 5;

/**
 * Evidence from other clips of a clip's camera with the same depth and transfer tag, nearest first: from the
 * representative frame, whose small picture the tile is drawn from. Clips whose tile was never drawn are omitted, to
 * avoid decoding.
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
    // Parts of the same recording are no independent evidence.
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
    if (picture) found.push(sightOf([gridOf(downsample(picture))], facts.depth));
  }
  return found;
}
