import { readFileSync } from 'node:fs';
import { csvParse } from 'd3-dsv';
import type { PortalDefinition } from '../core/definition/definition';
import { expect } from './expect';
import { choose, expectAccessible, onFreshDemo, publishNow, seeAs, signInAsBuilder, test } from './steps';

test('before a publish it is told what changes for whom, and what going back would change', async ({ page }) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    const headers = { 'x-stone-porch': 'test' };
    const at = '/api/builder/portals/alder-fen';
    await page.goto('/build/alder-fen/publish');
    await publishNow(page);
    const draft = (await (await page.request.get(`${at}/definition`)).json()) as PortalDefinition;
    draft.access.visits!.sampler!.see!.where = 'every row';
    draft.pages.find(({ id }) => id === 'my-details')!.audience = { roles: ['desk'] };
    expect((await page.request.put(`${at}/definition`, { headers, data: draft })).status()).toBe(200);
    await page.reload();
    await page.getByRole('button', { name: 'Look what the draft changes' }).click();
    const told = page.getByRole('region', { name: 'What changes for people' });
    const rows = told.getByRole('row');
    const gains = rows.filter({ hasText: /\+ more.*Sampler.*see [\d,]+ visits in all that they did not see/ });
    await expect(gains).toHaveCount(1);
    await expect(rows.filter({ hasText: /− less.*no longer get the page My details/ })).toHaveCount(1);
    await expectAccessible(page, 'a change report');
    await gains.getByRole('button').click();
    await expect(page.getByRole('dialog').getByRole('button', { name: 'Mara Lindqvist' })).toBeVisible();
    await page.keyboard.press('Escape');
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'As CSV' }).click();
    const lines = csvParse(readFileSync(await (await download).path(), 'utf8'));
    expect(lines.some(({ who, names }) => who === 'Sampler' && names!.includes('Mara Lindqvist'))).toBe(true);

    // Going back from there takes away what was given.
    await publishNow(page);
    await page
      .getByRole('button', { name: /^What v\d+ would change$/ })
      .first()
      .click();
    await expect(page.getByText(/^Version \d+ in place of version \d+/)).toBeVisible();
    await expect(rows.filter({ hasText: /− less.*Sampler.*no longer see [\d,]+ visits in all/ })).toHaveCount(1);

    // What somebody gets is looked at in the draft, and as it would be in the version before.
    await seeAs(page, 'Ines Brannock', 'ines.brannock');
    const seen = page.getByRole('complementary', { name: 'Seen by' });
    const details = seen.getByRole('link', { name: 'My details' });
    await expect(seen.getByRole('link', { name: 'My wells' })).toBeVisible();
    await expect(details).toHaveCount(0);
    await page
      .getByRole('button', { name: /^Seen by in v\d+$/ })
      .nth(1)
      .click();
    await expect(seen.getByText(/^This is version \d+ on today’s records\.$/)).toBeVisible();
    await expect(details).toBeVisible();
    await expectAccessible(page, 'a version in Seen by', 'all', 'whole');
    await seen.getByRole('button', { name: 'Back to the draft' }).click();
    await expect(details).toHaveCount(0);
    await expect(seen.getByRole('link', { name: 'My wells' })).toBeVisible();
  });
});

test('a proof run says how much was asked, and that every answer is what the rules say', async ({ page }) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/check');
  await page.getByRole('link', { name: 'Proof run' }).click();
  await expect(page.getByRole('heading', { name: 'Proof run' })).toBeVisible();
  await expectAccessible(page, 'before a proof run');
  await choose(page.getByRole('combobox', { name: 'About how many questions' }), '2,000');
  // That it is over is not told before it was seen to run.
  let wasSeen = () => {};
  const seen = new Promise<void>((resolve) => (wasSeen = resolve));
  let asked = 0;
  await page.route(/\/jobs\/\d+$/, async (route) => {
    if (asked++ > 0) await seen;
    await route.continue();
  });
  await page.getByRole('button', { name: 'Prove the draft' }).click();
  await expect(page.getByRole('progressbar', { name: 'Asking' })).toBeVisible();
  wasSeen();
  await expect(page.getByText('Every answer is what the rules say.')).toBeVisible({ timeout: 180_000 });
  await expect(page.getByRole('region', { name: 'Proof runs' }).getByRole('row').nth(1)).toContainText('none');
  await expectAccessible(page, 'a proof run');
});
