import { expect } from './expect';
import { addSection, choose, expectAccessible, signInAsBuilder, test } from './steps';

test('a page looks into a second source, related by value', async ({ page }) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/data');
  const button = (name: string | RegExp) => page.getByRole('button', { name });
  await button('Sources').click();
  await page.getByLabel('Short name').fill('Lab');
  await choose(page.getByLabel('Database schema'), 'bottle_store');
  await button('Add it').click();
  await expect(page.getByText(/lower-case letters/)).toBeVisible();
  await page.getByLabel('Short name').fill('lab');
  await button('Add it').click();
  await expect(button('Take out lab')).toBeVisible();
  await expectAccessible(page, 'sources');
  await button('Close').first().click();

  // Its tables stand beside the portal's own; the relation is suggested by names and values.
  await page.getByRole('link', { name: 'bottles' }).click();
  await expect(page.getByRole('heading', { name: /bottles/i })).toBeVisible();
  await button(/relate to wells: 3 of 3 values are found/).click();
  await expect(page.getByText('well → wells')).toBeVisible();
  await button('Relate owner_id to another table').click();
  await choose(page.getByLabel('owner_id leads to'), 'owners.id');
  await expect(page.getByText('owner → owners')).toBeVisible();
  await button('Rows').click();
  await expect(page.getByRole('gridcell').getByText('B-03')).toBeVisible();
  await page.getByRole('button', { name: 'Columns', exact: true }).click();
  await page.getByRole('checkbox', { name: 'Well code' }).check();
  await page.keyboard.press('Escape');
  // As the title of the relation, and as a column of its own.
  await expect(page.getByRole('gridcell').getByText('AF-0232')).toHaveCount(2);

  // Pages can show what the relation leads to.
  await page.goto('/build/alder-fen/pages');
  await button('+ page').click();
  await expect(page.getByRole('heading', { name: 'New page' })).toBeVisible();
  await addSection(page, 'List', /bottles/i);
  await choose(page.getByLabel('Add to: Columns of the list'), /^well's owner's name/);
  await expect(
    page.getByRole('region', { name: 'List of lab:bottles' }).getByLabel("Heading of well's owner's name"),
  ).toBeVisible();
});
