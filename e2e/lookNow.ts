import { SIZES } from './browser';
import { openHouse, settled } from './house';
(async () => {
  const house = await openHouse();
  const clips = await house
    .clips('mooring_block_02', 'channel_east_03', 'estuary_01')
    .catch(async () => house.clips('mooring_block_02', 'channel_east_03'));
  const page = await house.page(SIZES.phone);
  page.on('console', (m) => m.type() === 'error' && console.log('console', m.text()));
  page.on('pageerror', (e) => console.log('pageerror', e.message));
  await page.goto(`${house.running.address}/clip/${clips.mooring_block_02.id}`);
  await settled(page);
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.waitForTimeout(9000);
  await page.screenshot({ path: '/tmp/r/fp1.png' });
  const take = page.getByRole('button', { name: /Take (this|these)/ });
  if (await take.count()) {
    await take.tap();
    await settled(page);
    await page.screenshot({ path: '/tmp/r/fp2.png' });
  }
  await page.goto(`${house.running.address}/clip/${clips.channel_east_03.id}`);
  await settled(page);
  await page.getByRole('button', { name: /First pass/ }).tap();
  await page.waitForTimeout(7000);
  await page.screenshot({ path: '/tmp/r/fp3.png' });
  await page.getByRole('radio', { name: 'Haze', exact: true }).tap();
  await page.waitForTimeout(7000);
  await page.screenshot({ path: '/tmp/r/fp4.png' });
  const take2 = page.getByRole('button', { name: /Take (this|these)/ });
  if (await take2.count()) {
    await take2.tap();
    await settled(page);
    await page.screenshot({ path: '/tmp/r/fp5.png' });
  }
  await house.close();
  process.exit(0);
})();
