import type { Page } from 'playwright-core';
import { SIZES } from './browser';
import { openTestApp, screenPicture, settled, tapPicture, textOf, type TestApp, takeFromShelf } from './testApp';
import { patchError, patchesOf } from './truth';

let app: TestApp;
let page: Page;
beforeAll(async () => {
  app = await openTestApp();
  // The clip is on the card and imported beforehand: the walk begins with what a new user sees first.
  await app.clips('paddle_out_07');
  page = await app.page(SIZES.phone, 2);
});
afterAll(() => app.close());

/**
 * A new user who only does what the screen says: opens the newest outing, opens the only clip, reads the sentence, and
 * presses what it offers.
 */
test('from a flat clip to a good one in at most twelve actions', async () => {
  let actions = 0;
  const tap = async (name: string | RegExp, role: 'button' | 'link' | 'radio' = 'button'): Promise<void> => {
    actions += 1;
    await page.getByRole(role, { name }).first().tap();
  };
  const reading = () => textOf(page.getByTestId('reading'));
  await page.goto(app.running.address);
  await tap(/Saltmark survey/, 'link');
  await tap(/paddle_out_07/, 'link');
  await settled(page);
  // Not part of the walk: to a frame with known positions of the patches.
  const at = async () => Number((await page.getByTestId('scrub').getAttribute('aria-valuenow'))!);
  await page.getByTestId('scrub').focus();
  while ((await at()) % 15 !== 0) await page.keyboard.press('ArrowLeft');
  const frame = await at();
  await settled(page);
  const before = patchError(await screenPicture(page), patchesOf('HELMET_CAMERA', frame));
  // The line says that the trace is flat, and offers to correct it.
  expect(await reading()).toMatch(/flat/);
  await tap(/^Mend with convert/);
  await tap(/Change it/);
  await takeFromShelf(page, 'Action camera flat');
  await settled(page);
  // Now it mentions the cast, and the step that it leads to offers to find the white.
  for (let i = 0; i < 5 && !(await page.getByRole('button', { name: 'Mend with balance' }).isVisible()); i += 1)
    await tap(/Next reading/);
  await tap('Mend with balance');
  await tap('Pick neutral');
  // "Tap something neutral": the grey card is easy to see in the picture.
  await page.getByText('Tap something neutral').waitFor();
  const grey = patchesOf('HELMET_CAMERA', frame).find((p) => p.name === 'grey card')!;
  actions += 1;
  await tapPicture(page, grey.x + grey.width / 2, grey.y + grey.height / 2);
  await page.getByText(/Balanced on a light of \d+\sK/).waitFor();
  await settled(page);
  console.log(await reading());
  const after = patchError(await screenPicture(page), patchesOf('HELMET_CAMERA', frame));
  console.log(
    `in ${actions} actions: CIEDE2000 to the truth ${before.toFixed(1)} as recorded, ${after.toFixed(1)} afterwards`,
  );
  expect(actions).toBeLessThanOrEqual(12);
  expect(after).toBeLessThan(before / 2);
});
