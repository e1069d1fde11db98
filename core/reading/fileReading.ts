import type { Profile } from '../model/profile';
import { pictureToRgb } from '../program/cpu/gradePicture';
import type { PlanarPicture } from '../program/cpu/planar';
import { shrink } from '../fields/smallPicture';
import { fileEnds } from '../scopes/statistics';
import { gridOf } from './grid';
import { spread } from './readFrames';
import { recogniseProfile, sightOf, type Recognition, type Sight } from './recognise';

/** What a file is, by its pictures. */
export interface FileReading {
  recognition: Recognition;
  /** Share of the pixels (0–1) with a channel at the end of what the file holds: over the clip, and where it is most. */
  lost: { mean: number; most: number; mostSeconds: number };
}

/** So many pictures are enough to recognise a profile. */
const RECOGNISED = 6;

/** Share of a picture's pixels with a channel at or beyond the end of its code values. */
function lostIn(picture: PlanarPicture): number {
  const rgb = pictureToRgb(undefined, picture);
  const { low, high } = fileEnds(rgb);
  let lost = 0;
  for (let o = 0; o < rgb.length; o += 3) {
    const [most, least] = [Math.max(rgb[o], rgb[o + 1], rgb[o + 2]), Math.min(rgb[o], rgb[o + 1], rgb[o + 2])];
    if (most >= high || least <= low) lost += 1;
  }
  return lost / (rgb.length / 3);
}

/**
 * Reads what a file is from pictures spread over it. `tag`: its transfer tag. `profiles`: those that it may be recorded with.
 * `otherClips`: what is seen of other clips of its camera, of the same depth and tag.
 */
export function fileReading(
  pictures: readonly { picture: PlanarPicture; seconds: number }[],
  profiles: readonly Profile[],
  { depth, tag, otherClips }: { depth: number; tag: string | null; otherClips?: readonly Sight[] },
): FileReading {
  const grids = spread(pictures, RECOGNISED).map(({ picture }) => gridOf(shrink(picture)));
  const shares = pictures.map(({ picture }) => lostIn(picture));
  const most = Math.max(0, ...shares);
  return {
    recognition: recogniseProfile(sightOf(grids, depth), profiles, tag, otherClips),
    lost: {
      mean: shares.reduce((a, b) => a + b, 0) / Math.max(1, shares.length),
      most,
      mostSeconds: pictures[Math.max(0, shares.indexOf(most))]?.seconds ?? 0,
    },
  };
}
