import { luma709, mix, smoothstep, type Algebra } from '../../formula/algebra';
import type { Formula } from '../../formula/formula';
import { takeVeilIn } from '../../fields/takeVeil';

/**
 * Share of visibility left at which colour that comes back is trusted, and at which it is not at all: so little light of
 * the thing itself is left there that a small error in the veil would colour the whole distance.
 */
const TRUSTED = 0.5;
const GUESSED = 0.1;

const numbers = [
  // The veil that is taken off where all of it lies in front, linear.
  ...(['veilRed', 'veilGreen', 'veilBlue'] as const),
  // Gains at most.
  ...(['limitRed', 'limitGreen', 'limitBlue'] as const),
  'rebuild',
  // What open water is multiplied with, its luminance kept.
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
    const green = k.mul(takeVeilIn(k, g, k.mul(n.veilGreen, curve.hazeGreen)), k.min(n.limitGreen, curve.gainGreen));
    const red = back(k, r, k.mul(n.veilRed, curve.hazeRed), n.limitRed, curve.gainRed, green, n.rebuild);
    const blue = back(k, b, k.mul(n.veilBlue, curve.hazeBlue), n.limitBlue, curve.gainBlue, green, n.rebuild);
    const trust = k.max(k.sub(1, n.mapped), smoothstep(k, GUESSED, TRUSTED, k.sub(1, curve.hazeGreen)));
    const grey = luma709(k, red, green, blue);
    // Open water, greener or bluer.
    const [waterG, waterB] = [k.mul(g, n.tintGreen), k.mul(b, n.tintBlue)];
    const luma = luma709(k, r, g, b);
    const level = k.select(0, luma, k.div(luma, k.max(1e-6, luma709(k, r, waterG, waterB))), 1);
    return [
      joined(k, red, grey, trust, k.mul(r, level), curve.kept),
      joined(k, green, grey, trust, k.mul(waterG, level), curve.kept),
      joined(k, blue, grey, trust, k.mul(waterB, level), curve.kept),
    ];
  },
};
