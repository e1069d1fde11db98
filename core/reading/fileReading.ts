import type { Profile } from '../model/profile';
import { pictureToRgb } from '../program/cpu/gradePicture';
import type { PlanarPicture } from '../program/cpu/planar';
import { downsample } from '../fields/smallPicture';
import { fileEnds } from '../scopes/statistics';
import { gridOf } from './grid';
import { spread } from './readFrames';
import { recogniseProfile, sightOf, type Recognition, type Sight } from './recognise';

/** Properties of a file, from its pictures. */
export interface FileReading {
  recognition: Recognition;
  /**
   * Share of the pixels (0–1) with a channel at the limit of the file's code values: over the clip, and in its worst
   * picture.
   */
  lost: { mean: number; most: number; mostSeconds: number };
}

/** Number of pictures used to recognise a profile. */
const RECOGNISED = 6;

/** Share of a picture's pixels with a channel at or beyond the limit of its code values. */
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
 * Reads a file's properties from pictures spread over it. `tag`: its transfer tag. `profiles`: candidate profiles.
 * `otherClips`: evidence from other clips of its camera with the same depth and tag.
 */
export function fileReading(
  pictures: readonly { picture: PlanarPicture; seconds: number }[],
  profiles: readonly Profile[],
  { depth, tag, otherClips }: { depth: number; tag: string | null; otherClips?: readonly Sight[] },
): FileReading {
  const grids = spread(pictures, RECOGNISED).map(({ picture }) => gridOf(downsample(picture)));
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
