import { luma709, mix, smoothstep, type Algebra } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';
import { KNEE, takeVeilIn } from '../../fields/takeVeil';

/**
 * Share of visibility left at which colour that comes back is trusted, and at which it is not at all: so little light of
 * the thing itself is left there that a small error in the veil would colour the whole distance.
 */
const TRUSTED = 0.5;
const GUESSED = 0.1;

/**
 * Luminance, in parts of that of the veil before it, up to which a violet is an error of the veil, and from which it is the
 * thing's own: from the veil's knee to twice as much. Of the darkest tenth of fifty known pictures kept aside 6.7 % came out violet
 * with it and were not, 9.0 % without, and they came nearer to the truth (10.56, before 10.83 CIEDE2000).
 */
const VEILED = KNEE;
const CLEAR = 2 * KNEE;

const numbers = [
  // The veil that is taken off where all of it lies in front, linear.
  ...(['veilRed', 'veilGreen', 'veilBlue'] as const),
  // Gains at most.
  ...(['limitRed', 'limitGreen', 'limitBlue'] as const),
  'rebuild',
  // What open water is multiplied with, but for its luminance.
  ...(['tintGreen', 'tintBlue'] as const),
  // 1 where distances come from the picture.
  'mapped',
] as const;
const curves = [
  // Gain that undoes the loss, luminance of a near neutral kept; before the limit.
  ...(['gainRed', 'gainGreen', 'gainBlue'] as const),
  // How far it counts as open water, which keeps its colour.
  'kept',
  // Share of the veil in front.
  ...(['hazeRed', 'hazeGreen', 'hazeBlue'] as const),
] as const;

/**
 * A channel with its veil off and its light back, as far as its limit lets it. What the limit keeps back is rebuilt from
 * green, as if the thing were grey: that much, its noise is green's (as Ancuti et al. 2018 do for red).
 */
function back<T>(k: Algebra<T>, light: T, veil: T, limit: T, gain: T, green: T, rebuild: T): T {
  const held = k.min(limit, gain);
  const rebuilt = k.mul(rebuild, k.sub(1, k.div(held, gain)));
  return k.add(k.mul(takeVeilIn(k, light, veil), held), k.mul(rebuilt, green));
}

/**
 * How far a colour is trusted that lies close to the veil, `light` and `veil` in luminance: what remains of green is the small
 * difference of two large numbers there, and where it is too small, dark things that are neutral turn violet.
 */
function trustNearVeil<T>(k: Algebra<T>, light: T, veil: T, red: T, green: T, blue: T): T {
  const lacking = k.max(0, k.sub(k.min(red, blue), green));
  const violet = k.min(1, k.div(k.mul(4, lacking), k.max(1e-9, k.max(red, blue))));
  const clear = smoothstep(k, VEILED, CLEAR, k.min(CLEAR, k.div(light, k.max(1e-9, veil))));
  return k.sub(1, k.mul(violet, k.sub(1, clear)));
}

/** The thing's own colour, grey as far as it is not trusted, then open water as far as it is kept. */
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
    const green = k.mul(takeVeilIn(k, g, veilGreen), k.min(n.limitGreen, curve.gainGreen));
    const red = back(k, r, veilRed, n.limitRed, curve.gainRed, green, n.rebuild);
    const blue = back(k, b, veilBlue, n.limitBlue, curve.gainBlue, green, n.rebuild);
    const luma = luma709(k, r, g, b);
    const far = k.max(k.sub(1, n.mapped), smoothstep(k, GUESSED, TRUSTED, k.sub(1, curve.hazeGreen)));
    const veil = luma709(k, veilRed, veilGreen, veilBlue);
    const trust = k.mul(far, trustNearVeil(k, luma, veil, red, green, blue));
    const grey = luma709(k, red, green, blue);
    // Open water, greener or bluer. At one distance it is as bright as it would be without its colour, so that none of it
    // stands out; far away, where all that is left is veil, as bright as it was.
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
