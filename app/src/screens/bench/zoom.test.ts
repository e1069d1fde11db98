import fc from 'fast-check';
import { WHOLE } from '../../engine/picture/look';
import { MAX_ZOOM, panBy, pixelView, toPicture, toScreen, zoomAt } from './zoom';

const share = fc.double({ min: 0, max: 1, noNaN: true });
const views = fc
  .array(fc.tuple(share, share, fc.double({ min: 0.3, max: 4, noNaN: true })), { minLength: 1, maxLength: 6 })
  .map((zooms) => zooms.reduce((view, [x, y, f]) => zoomAt(view, x, y, f), WHOLE));

test('the picture is never left, and never magnified more than it may be', () => {
  fc.assert(
    fc.property(views, share, share, (view, dx, dy) => {
      const v = panBy(view, dx - 0.5, dy - 0.5);
      return (
        v.x >= 0 &&
        v.y >= 0 &&
        v.x + v.width <= 1 + 1e-9 &&
        v.y + v.height <= 1 + 1e-9 &&
        v.width >= 1 / MAX_ZOOM - 1e-9
      );
    }),
  );
});

test('what lies under the fingers stays there', () => {
  const view = zoomAt(WHOLE, 0.3, 0.6, 2.5);
  expect(view.x + 0.3 * view.width).toBeCloseTo(0.3, 12);
  expect(view.y + 0.6 * view.height).toBeCloseTo(0.6, 12);
  expect(zoomAt(view, 0.9, 0.1, 0.01)).toEqual(WHOLE);
});

test('areas go from the screen to the picture and back', () => {
  fc.assert(
    fc.property(views, share, share, (view, x, y) => {
      const area = { x, y, width: 0.1, height: 0.2 };
      const back = toScreen(toPicture(area, view), view);
      return (Object.keys(area) as (keyof typeof area)[]).every((k) => Math.abs(back[k] - area[k]) < 1e-9);
    }),
  );
});

test('at 100 % a pixel of the file is one of the screen, about the same middle where there is room', () => {
  fc.assert(
    fc.property(views, fc.integer({ min: 400, max: 4000 }), (view, width) => {
      const v = pixelView(view, 3840, width);
      return Math.abs(v.width * 3840 - Math.min(width, 3840)) < 1e-6 && v.x >= 0 && v.x + v.width <= 1 + 1e-9;
    }),
  );
  const { x, width } = pixelView({ x: 0.4, y: 0.4, width: 0.2, height: 0.2 }, 3840, 768);
  expect(x + width / 2).toBeCloseTo(0.5, 12);
  // A file that fits the screen is shown whole.
  expect(pixelView(WHOLE, 640, 1200)).toBe(WHOLE);
});
