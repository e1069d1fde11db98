import type { Page } from 'playwright-core';
import type { Clip } from '@inkavo/core/model/outing';
import { STEP_KINDS } from '@inkavo/core/steps';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { PLACES, randomSteps } from '@inkavo/core/steps/randomSteps';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { SIZES } from './browser';
import { changeUnder, drawnBy, openTestApp, settled, type TestApp } from './testApp';
import { shareOffCpu } from './offCpu';

let app: TestApp;
let clip: Clip;
let page: Page;
let lut = '';
const BENT = `LUT_3D_SIZE 2\n${[0, 1, 2, 3, 4, 5, 6, 7].map((i) => `${0.9 * (i & 1)} ${0.45 * (i & 2)} ${0.2 * (i & 4) + 0.1}`).join('\n')}\n`;

beforeAll(async () => {
  app = await openTestApp();
  ({ mooring_block_02: clip } = await app.clips('mooring_block_02'));
  const answer = await fetch(`${app.running.address}/api/shelf/files?name=bent.cube`, { method: 'POST', body: BENT });
  lut = ((await answer.json()) as ShelfItem).id;
  provideLut(lut, BENT);
  page = await app.page(SIZES.phone);
  await drawnBy(page, 'gpu');
  await page.goto(`${app.running.address}/clip/${clip.id}`);
  await settled(page);
});
afterAll(() => app.close());

// Requests to the decoder do not concern the backends.
const KINDS = STEP_KINDS.filter((k) => !k.ofSource);

test.each(KINDS.map(({ kind }, i) => [kind, PLACES[i % PLACES.length], PLACES[(i + 2) % PLACES.length]] as const))(
  'random parameters of %s, %s and %s: the screen is what the CPU backend makes of the frame',
  async (kind, one, other) => {
    for (const [place, seed] of [
      [one, 211],
      [other, 212],
    ] as const) {
      await changeUnder(app, page, clip, randomSteps(kind, seed, place, lut));
      expect(await shareOffCpu(app, page, clip, 2)).toBeLessThan(0.01);
    }
  },
);
