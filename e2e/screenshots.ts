import { join, resolve } from 'node:path';
import type { Page } from 'playwright-core';
import { newStep } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import { SIZES } from './browser';
import { openTestApp, settled, tapPicture } from './testApp';

const OUT = resolve(__dirname, '../docs/screenshots');

/** Takes the documented picture of each main view, from the demo data. */
async function main(): Promise<void> {
  const app = await openTestApp();
  const phone = await app.page(SIZES.phone, 2);
  const shoot = async (page: Page, name: string): Promise<void> => {
    await page.waitForTimeout(400);
    await page.screenshot({ path: join(OUT, `${name}.png`) });
    console.log(`${name}.png`);
  };
  const go = (page: Page, path: string) => page.goto(app.running.address + path);

  const clips = await app.clips('boat_shed_01', 'mooring_block_02', 'paddle_out_07', 'channel_east_03');
  const profile = (name: string) => PROFILES.find((p) => p.name === name);
  const grades = {
    channel_east_03: [
      newStep('convert', 'convert', { profile: profile('Drone log, 10 bit'), rollOff: 0.85 }),
      newStep('balance', 'balance', { kelvin: 5316, duv: 0.0085 }),
      newStep('range', 'range', { black: -0.17, soft: 0.04, contrast: 1.05 }),
      newStep('saturation', 'saturation', { amount: 1.1 }),
    ],
    paddle_out_07: [
      newStep('convert', 'convert', { profile: profile('Action camera flat'), rollOff: 0.85 }),
      newStep('balance', 'balance', { kelvin: 9600, duv: 0.006 }),
      newStep('range', 'range', { black: -0.03, soft: 0.05 }),
      newStep('saturation', 'saturation', { amount: 1.1 }),
    ],
  };
  for (const [name, steps] of Object.entries(grades)) {
    await app.client.setSteps(clips[name].id, { clip: steps });
  }

  await go(phone, '/');
  await phone.getByText('Saltmark survey').waitFor();
  await phone.waitForLoadState('networkidle').catch(() => undefined);
  await phone.waitForTimeout(2500);
  await shoot(phone, 'outings-phone');
  await go(phone, `/outing/${clips.channel_east_03.outingId}`);
  await phone.getByText('channel_east_03').first().waitFor();
  await phone.waitForTimeout(2500);
  await shoot(phone, 'outing-phone');
  // A card being imported into another outing, and a film of this one.
  const other = await app.client.post<{ id: string }>('/outings', { name: 'Second day', date: '2031-06-15' });
  await go(phone, `/outing/${other.id}`);
  await phone.getByRole('button', { name: 'Bring in clips' }).tap();
  await phone.getByRole('button', { name: /^Bring in \d/ }).waitFor();
  await phone.waitForTimeout(3000);
  await shoot(phone, 'bring-in-phone');
  await app.client.post('/removed', { kind: 'outing', ids: [other.id] });
  await go(phone, `/outing/${clips.channel_east_03.outingId}`);
  await phone.getByText('channel_east_03').first().waitFor();
  await phone.getByRole('button', { name: 'This outing: name, day, remove' }).tap();
  await phone.getByRole('button', { name: 'Film, report, timeline …' }).tap();
  await phone.getByRole('button', { name: 'A film …' }).tap();
  await phone.getByRole('radio', { name: 'Dissolves' }).tap();
  await shoot(phone, 'film-phone');

  await go(phone, `/clip/${clips.channel_east_03.id}`);
  await settled(phone);
  await phone.getByTestId('step-range').tap();
  await shoot(phone, 'bench-phone-dusk');
  const next = phone.getByRole('button', { name: /show the next view/ });
  for (let i = 0; i < 2; i += 1) await next.tap();
  await phone.getByRole('button', { name: 'Compare and check' }).tap();
  await phone.getByRole('button', { name: 'Split', exact: true }).tap();
  await phone.getByTestId('step-saturation').tap();
  await settled(phone);
  await shoot(phone, 'bench-phone-pad');
  await phone.getByRole('button', { name: 'Compare and check' }).tap();
  await phone.getByRole('button', { name: 'No split' }).tap();
  await next.tap();
  await phone.getByRole('button', { name: 'More', exact: true }).tap();
  await phone.getByRole('button', { name: /^Shelf/ }).tap();
  await phone.getByRole('radio', { name: 'Tables' }).tap();
  await phone.getByRole('button', { name: 'Late sun', exact: true }).tap();
  await phone.getByRole('button', { name: 'Against …' }).tap();
  await phone.getByRole('button', { name: 'Cold morning', exact: true }).tap();
  await phone.waitForTimeout(6000);
  await shoot(phone, 'shelf-phone');
  await phone.getByRole('button', { name: 'Close', exact: true }).tap();
  await phone.getByTestId('step-range').tap();
  await settled(phone);
  await next.tap();
  // A sky in a region of its own.
  await phone.getByRole('button', { name: 'Add a step' }).tap();
  await phone.getByRole('button', { name: /^Range Sets/ }).tap();
  await phone.getByRole('button', { name: 'Acts everywhere: change where' }).tap();
  await phone.getByRole('button', { name: 'New region: Ellipse' }).tap();
  await phone.getByRole('button', { name: 'Hatch what is not chosen' }).tap();
  await settled(phone);
  await phone.waitForTimeout(600);
  await shoot(phone, 'region-phone');
  // Water: a first pass, the dive log, keyframes; then the hold check.
  await go(phone, `/clip/${clips.mooring_block_02.id}`);
  await settled(phone);
  await phone.getByRole('button', { name: /First pass/ }).tap();
  await phone.getByRole('button', { name: /Take th/ }).waitFor();
  await phone.getByText(/^Measuring its noise/).waitFor({ state: 'detached' });
  await shoot(phone, 'first-pass-phone');
  await phone.getByRole('button', { name: /Take th/ }).tap();
  const water = phone
    .getByRole('group', { name: 'Steps' })
    .getByRole('button', { name: /^Water/ })
    .first();
  await settled(phone);
  if ((await water.getAttribute('aria-pressed')) !== 'true') await water.tap();
  await settled(phone);
  await shoot(phone, 'bench-phone-water');
  await phone.getByRole('button', { name: /^Dive log/ }).tap();
  await phone.getByRole('button', { name: /From the card/ }).tap();
  await phone.getByRole('button', { name: /Find by the clip/ }).tap();
  await phone.getByText(/Red falls/).waitFor();
  await shoot(phone, 'dive-log-phone');
  await phone.getByRole('button', { name: 'Close', exact: true }).tap();
  await phone.getByRole('button', { name: 'Keyframes of the step in hand' }).tap();
  await settled(phone);
  await shoot(phone, 'keyframes-phone');
  await phone.getByRole('button', { name: 'Close the keyframes' }).tap();
  await app.client.ask('DELETE', `/clips/${clips.mooring_block_02.id}/dive`);
  await phone.getByRole('button', { name: 'More', exact: true }).tap();
  await phone.getByRole('button', { name: 'Reset all steps of this clip' }).tap();
  await settled(phone);
  await go(phone, `/clip/${clips.boat_shed_01.id}`);
  await settled(phone);
  await phone.getByTestId('step-range').tap();
  await phone.getByRole('radio', { name: 'Light' }).tap();
  for (let i = 0; i < 16; i += 1) await phone.getByRole('button', { name: 'Exposure: more' }).tap();
  await settled(phone);
  await phone.getByRole('button', { name: 'Compare and check' }).tap();
  await phone.getByRole('button', { name: /Hold check/ }).tap();
  await phone.getByRole('button', { name: /Measure/ }).tap();
  await phone.getByRole('button', { name: 'Measure again' }).waitFor({ timeout: 60_000 });
  await phone.getByRole('radio', { name: /^Softer ends/ }).tap();
  await settled(phone);
  await shoot(phone, 'hold-check-phone');
  await phone.getByRole('button', { name: 'Close', exact: true }).tap();

  await phone.evaluate(() => localStorage.setItem('inkavo-mode', 'noon'));
  await go(phone, `/clip/${clips.mooring_block_02.id}`);
  await settled(phone);
  await phone.getByTestId('step-balance').tap();
  await phone.getByRole('button', { name: 'One frame back' }).tap();
  await settled(phone);
  await tapPicture(phone, 0.4, 0.48);
  await phone.getByRole('button', { name: 'This is neutral' }).waitFor();
  await shoot(phone, 'bench-phone-noon');

  const wide = await app.page(SIZES.wide);
  await go(wide, `/outing/${clips.channel_east_03.outingId}`);
  await wide.getByText('channel_east_03').first().waitFor();
  await wide.waitForTimeout(2500);
  await shoot(wide, 'outing-wide');
  await go(wide, `/clip/${clips.channel_east_03.id}`);
  await settled(wide);
  await wide.getByTestId('step-range').click();
  await wide.getByRole('radio', { name: 'Red, green, blue' }).click();
  await shoot(wide, 'bench-wide-dusk');
  await wide.getByRole('button', { name: 'Export' }).click();
  await wide.getByRole('dialog').getByRole('button', { name: 'Export', exact: true }).click();
  await wide.getByTestId('export-running').waitFor();
  await wide.waitForTimeout(6000);
  await shoot(wide, 'export-wide');

  const tablet = await app.page(SIZES.tablet);
  await go(tablet, `/clip/${clips.paddle_out_07.id}`);
  await settled(tablet);
  await shoot(tablet, 'bench-tablet-dusk');

  // Edited here while offline, and elsewhere in the meantime.
  const away = await app.page(SIZES.phone, 2);
  const { boat_shed_01: boat } = clips;
  await go(away, `/clip/${boat.id}`);
  await away.getByTestId('step-range').click();
  await away.context().route(/changes|events/, (route) => route.abort());
  await away
    .getByRole('button', { name: 'Light' })
    .or(away.getByRole('radio', { name: 'Light' }))
    .first()
    .click();
  for (let i = 0; i < 8; i += 1) await away.getByRole('button', { name: 'Exposure: less' }).click();
  await away.getByText(/on this device/).waitFor();
  await app.client.setSteps(boat.id, { clip: [newStep('range', 'range', { exposure: 0.35, contrast: 1.1 })] });
  await away.context().unroute(/changes|events/);
  await away.getByText('Changed in two places').waitFor({ timeout: 30_000 });
  await away.waitForTimeout(3000);
  await shoot(away, 'question-phone');
  await app.close();
}

main().then(
  () => process.exit(0),
  (error: Error) => {
    console.error(error);
    process.exit(1);
  },
);
