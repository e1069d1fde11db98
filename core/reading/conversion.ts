import { newStep } from '../model/grade';
import { isStandard, PROFILES } from '../model/profile';
import type { ClipClass } from './estimate';
import type { ClipFrame, Known, Proposal } from './firstPass';
import type { Grid } from './grid';
import { outcomeOf } from './outcome';
import { isTagged, recogniseProfile, sightOf, type Recognised } from './recognise';
import { percent } from './stepsOf';

/** The default flat profile by bit depth (common practice: 10 bits mean log), where the frames alone do not decide. */
const BY_CAMERA: Partial<Record<NonNullable<Known['camera']>, { name: string; bits: number }>> = {
  drone: { name: 'Drone log, 10 bit', bits: 10 },
  action: { name: 'Action camera flat', bits: 8 },
};
/** Minimum likelihood of a flat recording for the camera's own profile to be used … */
const FLAT = 0.5;
/** … and minimum share of the likelihood of all known profiles. */
const ALLOWED = 0.15;
/** From this likelihood on a profile is almost certainly right (68 of 71 made clips of the part kept aside). */
const CERTAIN = 0.9;
/** Plausible range of black and white after conversion; outside, another curve was used. */
const CONVERTED = { black: [-0.03, 0.3], white: [0.6, 1.25] } as const;
const within = (v: number, [low, high]: readonly [number, number]): boolean => v >= low && v <= high;

/** The profile that a clip was recorded with, if certain enough to be proposed. */
function recognised(
  raw: readonly Grid[],
  { flat, haze }: Readonly<Record<ClipClass, number>>,
  known: Known,
): { found: Recognised; why: string } | undefined {
  const { camera, depth, transfer, profiles = [], otherClips } = known;
  const sight = sightOf(raw, depth);
  const { ranked, unknown, sure } = recogniseProfile(sight, [...PROFILES, ...profiles], transfer, otherClips);
  // A tag is trusted; from pictures alone, they must also look flat.
  if (sure && (isStandard(ranked[0].profile) || isTagged(ranked[0].profile, transfer) || flat >= FLAT))
    return { found: ranked[0], why: `${percent(Math.min(0.99, ranked[0].likelihood))} sure.` };
  const guess = camera ? BY_CAMERA[camera] : undefined;
  if (!guess || depth < guess.bits || flat + haze < FLAT) return undefined;
  const own = ranked.find((r) => r.profile.name === guess.name && r.likelihood >= ALLOWED * (1 - unknown));
  return own && { found: own, why: 'by the kind of its camera, since the frames alone do not decide.' };
}

/**
 * A conversion; `certain`: from the file's tag, or almost certainly from its pictures, which may mistake haze for a
 * flat recording.
 */
export interface Conversion extends Proposal {
  certain: boolean;
}

/**
 * The conversion of a clip that was certainly recorded with a known profile, otherwise null. `raw`: as recorded;
 * `likely`: the resulting class likelihoods.
 */
export function proposeConversion(
  frames: readonly ClipFrame[],
  raw: readonly Grid[],
  likely: Readonly<Record<ClipClass, number>>,
  known: Known,
): Conversion | null {
  const { found, why } = recognised(raw, likely, known) ?? {};
  if (!found || isStandard(found.profile)) return null;
  const step = newStep('convert', 'first-convert', { profile: found.profile });
  const after = outcomeOf(frames, [step]);
  if (!within(after.black, CONVERTED.black) || !within(after.white, CONVERTED.white)) return null;
  const certain = isTagged(found.profile, known.transfer) || found.likelihood >= CERTAIN;
  return { step, certain, reason: `${found.profile.name}, ${why} ${found.reason}` };
}
