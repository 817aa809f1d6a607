import { expect } from './expect';
import { choose, expectAccessible, onFreshDemo, seeAs, signInAsBuilder, test } from './steps';

test('a record opens where its page says: under its line, over the page, alone', async ({ page }) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    await page.goto('/build/alder-fen/pages/all-visits');
    await seeAs(page, 'Odile Fennimore');
    const seen = page.getByRole('complementary', { name: 'Seen by' });
    const record = seen.getByRole('region', { name: 'Record' });
    const line = seen
      .locator('[data-list] li')
      .filter({ has: page.getByRole('link') })
      .nth(1);
    const saved = () => expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
    await choose(page.getByLabel('Records at once'), '10');
    await saved();
    await expect(seen.getByText(/^10 of [\d,]+ visits$/)).toBeVisible();

    await choose(page.getByLabel('A record opens'), 'under its line');
    await saved();
    await line.getByRole('link').click();
    await expect(record).toBeVisible();
    // It stands once, and within the list, which stays.
    await expect(seen.locator('[data-list]').getByRole('region', { name: 'Record' })).toHaveCount(1);
    await expect(line).toBeVisible();
    await expectAccessible(page, 'a record under its line');
    await record.getByRole('link', { name: 'Close' }).click();
    await expect(record).toHaveCount(0);

    await choose(page.getByLabel('A record opens'), 'alone, as a page');
    await saved();
    await line.getByRole('link').click();
    await expect(record).toBeVisible();
    await expect(line).toBeHidden();
    await record.getByRole('link', { name: 'List' }).click();
    await expect(line).toBeVisible();

    await choose(page.getByLabel('A record opens'), 'over the page');
    await saved();
    await line.getByRole('link').click();
    const over = page.getByRole('dialog', { name: 'Visits' });
    await expect(over.getByRole('region', { name: 'Record' })).toBeVisible();
    await expectAccessible(page, 'a record over its page');
    await page.keyboard.press('Escape');
    await expect(over).toHaveCount(0);
    await expect(line).toBeVisible();

    // Off the pages it is only led to.
    const pages = seen.getByRole('navigation', { name: 'Pages that they get' }).filter({ visible: true });
    await expect(pages.getByRole('link', { name: 'All visits' })).toBeVisible();
    await page.getByRole('checkbox', { name: /^Stands among the pages/ }).click();
    await saved();
    await expect(pages.getByRole('link', { name: 'All visits' })).toHaveCount(0);
    await expect(seen.getByRole('heading', { name: 'All visits' })).toBeVisible();
  });
});

test('a record under its line is a part of the table, with its own address', async ({ page }) => {
  await page.goto('/p/alder-fen/advisories');
  const table = page.getByRole('table').first();
  await table.getByRole('link').first().click();
  const record = table.getByRole('region', { name: 'Record' });
  await expect(record).toBeVisible();
  await expect(page).toHaveURL(/\/advisories\/advisories\/\d+/);
  await page.reload();
  await expect(record.getByRole('heading').first()).toBeVisible();
  await expectAccessible(page, 'a record within a table');
  await page.setViewportSize({ width: 390, height: 800 });
  await expect(page.getByRole('region', { name: 'Record' }).filter({ visible: true })).toHaveCount(1);
});
