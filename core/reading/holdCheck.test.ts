import { resolveParams, type Keyframed } from '../regions/keyframes';
import { newStep, type Step } from '../model/grade';
import { stepKind } from '../steps';
import { pictureBytes, planesOver, type PlanarFormat, type PlanarPicture } from '../program/cpu/planar';
import type { HoldFrame } from './holdMeasures';
import { holdCheck } from './holdCheck';

const format: PlanarFormat = {
  width: 480,
  height: 16,
  depth: 8,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
};

/** A grey ramp from dark to bright, offset by this many codes. */
function ramp(shift: number, top = 215, warm = 0): PlanarPicture {
  const picture = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  for (let i = 0; i < picture.y.length; i += 1)
    // A little noise, as real pictures have, so that no value is isolated.
    picture.y[i] = Math.round(
      Math.min(
        235,
        Math.max(16, 30 + ((i % format.width) / format.width) * (top - 30) + shift + ((i * 7919) % 13) / 2 - 3),
      ),
    );
  picture.cb.fill(128 - warm);
  picture.cr.fill(128 + warm);
  return picture;
}
const clip = (pictures: PlanarPicture[]): HoldFrame[] =>
  pictures.map((picture, i) => ({ picture, frame: i * 10, seconds: i / 3 }));
const still = clip(Array.from({ length: 9 }, () => ramp(0)));

test('a clip that is the same all over holds', () => {
  const { troubles, moments, mends } = holdCheck(still, []);
  expect(troubles).toEqual([]);
  expect(mends).toEqual([]);
  expect(moments).toHaveLength(9);
  expect(moments[0].black).toBeCloseTo((30 - 16) / 219, 2);
  expect(moments[0].white).toBeCloseTo((213 - 16) / 219, 1);
});

test('clipping by the grade is found with its stretch and worst frame, and what is offered mends it', () => {
  const pictures = Array.from({ length: 9 }, (_, i) => ramp(i >= 3 && i <= 5 ? 4 * (i - 2) : -18));
  const steps: Step[] = [newStep('range', 'r', { white: 0.12 })];
  const { troubles, mends } = holdCheck(clip(pictures), steps);
  // Without mends the result is the same.
  expect(holdCheck(clip(pictures), steps, null)).toMatchObject({ troubles, mends: [] });
  const [clipping] = troubles.filter((t) => t.kind === 'grade');
  expect(clipping).toMatchObject({ fromFrame: 30, toFrame: 50, worstFrame: 50 });
  const soft = mends.find((m) => m.title === 'Softer ends')!;
  expect(soft.text).toMatch(/Lost by the grade there: 0\.\d % instead of \d+\.\d %/);
  expect(holdCheck(clip(pictures), soft.steps).troubles.filter((t) => t.kind === 'grade')).toEqual([]);
  // The step at the largest strength that holds.
  const weaker = mends.find((m) => m.title.startsWith('Range at'))!;
  const [{ strength }] = weaker.steps;
  expect(weaker.title).toBe(`Range at ${Math.round(100 * strength)} %`);
  const lost = (at: number): boolean =>
    holdCheck(clip(pictures), [{ ...steps[0], strength: at }]).troubles.some((t) => t.kind === 'grade');
  expect(lost(strength)).toBe(false);
  expect(lost(strength + 0.04)).toBe(true);
  // A camera's step is not to be weakened by one clip.
  const titles = holdCheck(clip(pictures), steps, () => false).mends.map((m) => m.title);
  expect(titles.filter((t) => t.startsWith('Range at'))).toEqual([]);
});

test('ends that are dull all over the clip are brought out by one range, the same at every moment', () => {
  const frames = clip(Array.from({ length: 6 }, () => ramp(40, 100)));
  const { troubles, mends } = holdCheck(frames, []);
  expect(troubles.map((t) => t.kind)).toEqual(['black', 'white']);
  const mend = mends.find((m) => m.kind === 'black')!;
  expect(mend.text).toMatch(
    /^Darkest parts there: \d % instead of \d+ %\. Brightest parts there: [89]\d % instead of \d+ %\.$/,
  );
  const [{ params }] = mend.steps;
  expect([typeof params.black, typeof params.white]).toEqual(['number', 'number']);
  const after = holdCheck(frames, mend.steps);
  expect(after.troubles).toEqual([]);
  for (const m of after.moments) {
    expect(m.black).toBeCloseTo(0.03, 1);
    expect(m.white).toBeGreaterThan(0.8);
  }
});

test.each([-3, 1, 2.2, 4.5])(
  'a clip whose black an exposure of %d stops puts anywhere is measured to the end',
  (exposure) => {
    const { moments, mends } = holdCheck(clip([ramp(40, 100), ramp(60, 70), ramp(0)]), [
      newStep('range', 'r', { exposure }),
    ]);
    expect(moments).toHaveLength(3);
    for (const { steps } of mends) for (const s of steps) stepKind(s.kind).schema.parse(resolveParams(s.params, 0));
  },
);

test('where a clip grows dull its ends are held by keyframes, and what was bright stays', () => {
  const frames = clip(Array.from({ length: 13 }, (_, i) => ramp(0, 215 - 10 * Math.max(0, i - 4))));
  const { troubles, mends } = holdCheck(frames, []);
  expect(troubles.some((t) => t.kind === 'white')).toBe(true);
  const mend = mends.find((m) => m.kind === 'white')!;
  const after = holdCheck(frames, mend.steps);
  expect(after.troubles.filter((t) => t.kind === 'white')).toEqual([]);
  expect(after.moments[0].white).toBeCloseTo(holdCheck(frames, []).moments[0].white, 1);
});

test('an exposure that changes is held by keyframes', () => {
  const pictures = Array.from({ length: 12 }, (_, i) => ramp(i < 6 ? 0 : -12 * (i - 5), 190));
  const frames = clip(pictures);
  const { troubles, mends } = holdCheck(frames, []);
  expect(troubles.some((t) => t.kind === 'level' && t.worstFrame === 110)).toBe(true);
  const mend = mends.find((m) => m.kind === 'level')!;
  const drift = (list: { level: number }[]): number =>
    Math.max(...list.map((m) => m.level)) - Math.min(...list.map((m) => m.level));
  expect(drift(holdCheck(frames, mend.steps).moments)).toBeLessThan(0.6 * drift(holdCheck(frames, []).moments));
});

test('a cast that comes over the clip is held by keyframes on a balance of its own', () => {
  const frames = clip(Array.from({ length: 19 }, (_, i) => ramp(0, 205, Math.max(0, i - 8))));
  const given = [newStep('balance', 'balance', { kelvin: 6400 })];
  const { troubles, mends } = holdCheck(frames, given);
  expect(troubles.filter((t) => t.kind === 'cast')).toHaveLength(1);
  const mend = mends.find((m) => m.kind === 'cast')!;
  expect(mend.text).toMatch(/^Bright parts there: \d+ % from the rest of the clip instead of \d+ %\.$/);
  // Existing values stay.
  expect(mend.steps[0]).toEqual(given[0]);
  expect(mend.steps).toHaveLength(2);
  const after = holdCheck(frames, mend.steps);
  expect(after.troubles).toEqual([]);
  // What did not drift stays.
  expect(after.moments[0].cast).toBeCloseTo(holdCheck(frames, given).moments[0].cast, 2);
  after.moments.forEach((m, i) => expect(Math.abs(m.level - after.moments[0].level)).toBeLessThan(i ? 0.01 : 1e-9));
});

test('a cast that comes and a file that had clipped are told apart', () => {
  const warm = clip(Array.from({ length: 9 }, (_, i) => ramp(0, 215, i === 7 ? 16 : 0)));
  const { troubles, mends } = holdCheck(warm, []);
  expect(troubles.map((t) => [t.kind, t.worstFrame])).toContainEqual(['cast', 70]);
  // It is short, and held by only the keyframes that it needs.
  const { steps } = mends.find((m) => m.kind === 'cast')!;
  expect(holdCheck(warm, steps).troubles.map((t) => t.kind)).not.toContain('cast');
  expect((steps[0].params.red as Keyframed).keys.length).toBeLessThanOrEqual(5);
  const lost = clip(Array.from({ length: 9 }, () => ramp(45)));
  const kinds = holdCheck(lost, []).troubles.map((t) => t.kind);
  expect(kinds).toContain('file');
  expect(kinds).not.toContain('grade');
});

test('what soft ends press flat is found, and no mend is offered that presses more than is borne', () => {
  // Three stops up, held below white by soft ends: most of the frame ends on the last code values.
  const pressing = [newStep('range', 'r', { exposure: 3, soft: 0.12 })];
  const { troubles } = holdCheck(still, pressing);
  const pressed = troubles.find((t) => t.kind === 'pressed')!;
  expect(pressed).toMatchObject({ fromFrame: 0, toFrame: 80 });
  expect(pressed.text).toMatch(/^\d+\.\d % of the frame is pressed flat at the ends\.$/);
  // Without soft ends the same is lost; softer ends would only compress it.
  const lost = holdCheck(still, [newStep('range', 'r', { exposure: 3 })]);
  expect(lost.troubles.map((t) => t.kind)).toContain('grade');
  expect(lost.mends.map((m) => m.title)).not.toContain('Softer ends');
});

test('garish colours are taken back to their limit by the step that makes them', () => {
  const warm = clip(Array.from({ length: 5 }, () => ramp(0, 180, 20)));
  const steps: Step[] = [newStep('range', 'r', { contrast: 1.05 }), newStep('saturation', 's', { amount: 4 })];
  const { troubles, mends } = holdCheck(warm, steps);
  expect(troubles.map((t) => t.kind)).toContain('chroma');
  const mend = mends.find((m) => m.kind === 'chroma')!;
  expect(mend.title).toMatch(/^Saturation at \d+ %$/);
  expect(mend.text).toMatch(/^Colours there: 8[45] % of the radius instead of \d+ %\.$/);
  expect(holdCheck(warm, mend.steps).troubles.map((t) => t.kind)).not.toContain('chroma');
});

test('where no step alone is to blame, all of them are weakened together', () => {
  const two: Step[] = [newStep('range', 'a', { exposure: 1.2 }), newStep('range', 'b', { exposure: 1.2 })];
  const { mends } = holdCheck(still, two);
  const together = mends.find((m) => m.title.startsWith('All steps at'))!;
  expect(holdCheck(still, together.steps).troubles.map((t) => t.kind)).not.toContain('grade');
});

test('of several stretches a mend is tried where it is worst, not where the first one is', () => {
  const pictures = Array.from({ length: 9 }, (_, i) => ramp(i === 1 ? 3 : i === 6 ? 14 : -18));
  const { troubles, mends } = holdCheck(clip(pictures), [newStep('range', 'r', { white: 0.12 })]);
  expect(troubles.filter((t) => t.kind === 'grade').map((t) => t.worstFrame)).toEqual([10, 60]);
  const weaker = mends.find((m) => m.title.startsWith('Range at') || m.title.includes('and Range at'))!;
  expect(weaker.frame).toBe(60);
  expect(holdCheck(clip(pictures), weaker.steps).troubles.filter((t) => t.kind === 'grade')).toEqual([]);
});
