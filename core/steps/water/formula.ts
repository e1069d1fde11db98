import { luma709, mix, smoothstep, type Algebra } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';
import { KNEE, removeVeilIn } from '../../fields/removeVeil';

/**
 * Transmission from which a restored colour is trusted, and below which it is not at all: with so little light of the
 * object left, a small error in the veil would tint the whole background.
 */
const TRUSTED = 0.5;
const GUESSED = 0.1;

/**
 * Luminance, relative to that of the veil, up to which violet is attributed to an error of the veil, and from which it
 * belongs to the object: from the veil's knee to twice that. Of the darkest tenth of fifty known pictures kept aside
 * 6.7 % came out violet with it and were not, 9.0 % without, and they came nearer to the truth (10.56, before 10.83
 * CIEDE2000).
 */
const VEILED = KNEE;
const CLEAR = 2 * KNEE;

const numbers = [
  // The veil's light at full density, linear.
  ...(['veilRed', 'veilGreen', 'veilBlue'] as const),
  // Maximum gains.
  ...(['limitRed', 'limitGreen', 'limitBlue'] as const),
  'rebuild',
  // Gain of open water, relative to its luminance.
  ...(['tintGreen', 'tintBlue'] as const),
  // 1 where distances come from the picture.
  'mapped',
] as const;
const curves = [
  // Gain that compensates the loss, preserving the luminance of a near neutral; before the limit.
  ...(['gainRed', 'gainGreen', 'gainBlue'] as const),
  // Share treated as open water, which keeps its colour.
  'kept',
  // Share of the veil in the light.
  ...(['hazeRed', 'hazeGreen', 'hazeBlue'] as const),
] as const;

/**
 * A channel without the veil and with its loss compensated up to its limit. The remainder is rebuilt from green, as if
 * the object were grey, with green's noise (as Ancuti et al. 2018 do for red).
 */
function back<T>(k: Algebra<T>, light: T, veil: T, limit: T, gain: T, green: T, rebuild: T): T {
  const held = k.min(limit, gain);
  const rebuilt = k.mul(rebuild, k.sub(1, k.div(held, gain)));
  return k.add(k.mul(removeVeilIn(k, light, veil), held), k.mul(rebuilt, green));
}

/**
 * Confidence in a colour close to the veil, from luminances of `light` and `veil`: the remaining green is a small
 * difference of two large numbers there, and if it is too small, dark neutrals turn violet.
 */
function trustNearVeil<T>(k: Algebra<T>, light: T, veil: T, red: T, green: T, blue: T): T {
  const lacking = k.max(0, k.sub(k.min(red, blue), green));
  const violet = k.min(1, k.div(k.mul(4, lacking), k.max(1e-9, k.max(red, blue))));
  const clear = smoothstep(k, VEILED, CLEAR, k.min(CLEAR, k.div(light, k.max(1e-9, veil))));
  return k.sub(1, k.mul(violet, k.sub(1, clear)));
}

/** The object's own colour, desaturated by lack of confidence, blended with kept open water. */
const joined = <T>(k: Algebra<T>, thing: T, grey: T, trust: T, water: T, kept: T): T =>
  mix(k, mix(k, grey, thing, trust), water, kept);

/** I = J · exp(−Kd · z − β · r) + V · (1 − exp(−β · r)), solved for J; curves are over the optical depth of green. */
export const WATER: Formula<(typeof numbers)[number], (typeof curves)[number]> = {
  name: 'water',
  light: 'linear',
  numbers,
  curves,
  colour(k, { rgb: [r, g, b], n, curve }) {
    const veilRed = k.mul(n.veilRed, curve.hazeRed);
    const veilGreen = k.mul(n.veilGreen, curve.hazeGreen);
    const veilBlue = k.mul(n.veilBlue, curve.hazeBlue);
    const green = k.mul(removeVeilIn(k, g, veilGreen), k.min(n.limitGreen, curve.gainGreen));
    const red = back(k, r, veilRed, n.limitRed, curve.gainRed, green, n.rebuild);
    const blue = back(k, b, veilBlue, n.limitBlue, curve.gainBlue, green, n.rebuild);
    const luma = luma709(k, r, g, b);
    const far = k.max(k.sub(1, n.mapped), smoothstep(k, GUESSED, TRUSTED, k.sub(1, curve.hazeGreen)));
    const veil = luma709(k, veilRed, veilGreen, veilBlue);
    const trust = k.mul(far, trustNearVeil(k, luma, veil, red, green, blue));
    const grey = luma709(k, red, green, blue);
    // Open water, made greener or bluer. At a single distance it gets the luminance that it would have without its
    // colour, so that it does not stand out; far away, where only veil remains, it keeps its own.
    const [waterG, waterB] = [k.mul(g, n.tintGreen), k.mul(b, n.tintBlue)];
    const bright = mix(k, grey, luma, n.mapped);
    const level = k.select(0, luma, k.div(bright, k.max(1e-6, luma709(k, r, waterG, waterB))), 1);
    return [
      joined(k, red, grey, trust, k.mul(r, level), curve.kept),
      joined(k, green, grey, trust, k.mul(waterG, level), curve.kept),
      joined(k, blue, grey, trust, k.mul(waterB, level), curve.kept),
    ];
  },
};
