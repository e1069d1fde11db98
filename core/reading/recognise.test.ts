import type { Vec3 } from '../colour/matrix';
import { PROFILES, STANDARD, type Profile } from '../model/profile';
import { linearToSignal } from '../steps/convert/transfer';
import { GRID_CELLS, type Grid } from './grid';
import { recogniseProfile, sightOf } from './recognise';
import { logProfile } from './unknownCurves';

/** A synthetic landscape: sky above, land below, dark bushes; cells of linear light. */
function landscape(exposure = 1): Float32Array {
  const light = new Float32Array(3 * GRID_CELLS);
  const sky: Vec3 = [0.55, 0.75, 1.1];
  const land: Vec3 = [0.16, 0.18, 0.07];
  for (let i = 0; i < GRID_CELLS; i += 1) {
    const y = Math.floor(i / 64) / 36;
    const wave = 0.75 + 0.5 * Math.abs(Math.sin(i * 12.9898) * Math.cos(i * 4.1414));
    const dark = i % 11 === 0 ? 0.06 : 1;
    for (let c = 0; c < 3; c += 1) light[3 * i + c] = (y < 0.4 ? sky[c] * (1.2 - y) : land[c] * dark) * wave + 0.002;
  }
  return light.map((v) => v * exposure);
}
const recorded = (profile: Profile, exposure = 1): Grid =>
  landscape(exposure).map((v) => linearToSignal(profile.transfer)(v)) as Grid;
const byName = (name: string): Profile => PROFILES.find((p) => p.name === name)!;

test.each(['Standard video', 'Action camera flat'])(
  '%s is recognised by a landscape that was recorded with it',
  (name) => {
    const { ranked } = recogniseProfile(sightOf([recorded(byName(name))], 8), PROFILES, null);
    expect(ranked[0].profile.name).toBe(name);
    expect(ranked[0].reason).toMatch(/^Dark at \d+ %, middle at \d+ %, bright at \d+ %; its black is \d+ %/);
  },
);

test('the transfer tag settles what pictures alone leave open', () => {
  const sight = sightOf([recorded(byName('Hybrid log-gamma, wide'))], 10);
  const likelihood = (tag: string | null): number =>
    recogniseProfile(sight, PROFILES, tag).ranked.find((r) => r.profile.transfer.kind === 'hlg')!.likelihood;
  expect(likelihood('arib-std-b67')).toBeGreaterThan(0.98);
  expect(likelihood(null)).toBeLessThan(0.9);
});

test('curves that no picture tells from standard video are not asked about; the likelihoods add up to one', () => {
  const { ranked, unknown } = recogniseProfile(sightOf([recorded(STANDARD)], 8), PROFILES, null);
  expect(ranked.map((r) => r.profile.transfer.kind)).not.toEqual(expect.arrayContaining(['srgb']));
  expect(ranked.reduce((sum, r) => sum + r.likelihood, unknown)).toBeCloseTo(1, 9);
  expect(recogniseProfile(sightOf([recorded(STANDARD)], 8), [], null)).toMatchObject({
    ranked: [],
    sure: false,
  });
});

test.each([
  [0.08, 0.34, 0.6],
  [0.17, 0.42, 0.7],
  [0.11, 0.38, 0.82],
])('a log curve that no profile describes (black %s, grey %s, white %s) is surely none of them', (...levels) => {
  const own = logProfile('Nobody knows it', levels, 'bt709');
  const { ranked, unknown, sure } = recogniseProfile(sightOf([recorded(own)], 8), PROFILES, null);
  expect(sure).toBe(false);
  expect(unknown).toBeGreaterThan(0.2);
  // When known, it is recognised.
  const found = recogniseProfile(sightOf([recorded(own)], 8), [...PROFILES, own], null);
  expect(found.ranked[0].profile).toBe(own);
  expect(ranked).toHaveLength(found.ranked.length - 1);
});

test('other clips of the camera settle what one leaves open; recorded otherwise, they do not settle it', () => {
  const flat = byName('Action camera flat');
  const seen = (profile: Profile, exposure: number) => sightOf([recorded(profile, exposure)], 8);
  const likelihood = (sight: ReturnType<typeof seen>, otherClips: ReturnType<typeof seen>[]): number =>
    recogniseProfile(sight, PROFILES, null, otherClips).ranked.find((r) => r.profile === flat)!.likelihood;
  const alike = [0.7, 1, 1.4].map((exposure) => seen(flat, exposure));
  const dim = seen(flat, 0.2);
  const alone = likelihood(dim, []);
  expect(alone).toBeLessThan(0.8);
  expect(likelihood(dim, alike)).toBeGreaterThan(alone + 0.1);
  // More of the same add little: they are not independent.
  expect(likelihood(dim, [...alike, ...alike])).toBeLessThan(1 - (1 - likelihood(dim, alike)) / 3);
  const standard = [0.7, 1, 1.4].map((exposure) => seen(STANDARD, exposure));
  const plain = seen(flat, 1);
  // However many there are, it is only recognised as theirs if that is possible: never against its own evidence.
  expect(recogniseProfile(plain, PROFILES, null, [...standard, ...standard]).sure).toBe(false);
  expect(likelihood(plain, standard)).toBeGreaterThan(0.1 * likelihood(plain, []));
});
