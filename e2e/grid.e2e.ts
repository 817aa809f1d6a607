import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { expect } from './expect';
import { choose, expectAccessible, signInAsBuilder, test } from './steps';

const openGrid = async (page: Page, table: string) => {
  await page.goto(`/build/fen-fresh/data/${table}`);
  await page.getByRole('button', { name: 'Rows', exact: true }).click();
  await expect(page.getByRole('grid').getByRole('row').nth(3)).toBeVisible();
};
const cell = (page: Page, row: number, column: string) =>
  page.locator(
    `[role=row][aria-rowindex="${row + 1}"] [role=gridcell][aria-colindex="${columns.indexOf(column) + 2}"]`,
  );
let columns: string[] = [];
const readColumns = async (page: Page) => {
  columns = (await page.getByRole('grid').getByRole('columnheader').allInnerTexts())
    .slice(1)
    .map((text) => text.trim());
};

test('a grid is worked by keyboard: typed, refused with the reason, undone, pasted into, copied from', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await signInAsBuilder(page);
  await openGrid(page, 'samplers');
  await readColumns(page);
  await expectAccessible(page, 'the grid');
  const grid = page.getByRole('grid');
  await grid.focus();
  await page.keyboard.press('ArrowRight');
  const name = await cell(page, 1, 'Name').innerText();
  await page.keyboard.press('F2');
  await page.keyboard.press('End');
  await page.keyboard.type(' the second');
  await page.keyboard.press('Enter');
  await expect(cell(page, 1, 'Name')).toHaveText(`${name} the second`);
  await page.keyboard.press('Control+z');
  await expect(cell(page, 1, 'Name')).toHaveText(name);

  // What doesn't fit stays as it was typed, with the reason beside it.
  await page.keyboard.press('Control+Home');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.type('x'.repeat(90));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText("can't be saved so");
  await expect(cell(page, 1, 'Name')).toHaveAttribute('aria-invalid', 'true');
  await expect(cell(page, 1, 'Name')).toContainText('xxx');
  await cell(page, 1, 'Name').dblclick();
  await page.keyboard.press('Control+a');
  await page.keyboard.type(name);
  await page.keyboard.press('Enter');
  await expect(cell(page, 1, 'Name')).toHaveText(name);

  // A block from a spreadsheet, and back to one.
  const before = await cell(page, 2, 'Name').innerText();
  await cell(page, 2, 'Name').click();
  await page.evaluate(() => navigator.clipboard.writeText('Pasted One\r\nPasted Two\r\n'));
  await page.keyboard.press('Control+v');
  await expect(cell(page, 3, 'Name')).toHaveText('Pasted Two');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Control+c');
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('Pasted One\r\nPasted Two');
  await page.getByRole('button', { name: 'Undo: paste 2 × 1 cells' }).click();
  await expect(cell(page, 2, 'Name')).toHaveText(before);
});

test('records are found, sorted, changed and deleted together, taken out and brought back', async ({ page }) => {
  await signInAsBuilder(page);
  await openGrid(page, 'visits');
  await readColumns(page);
  await page.getByRole('button', { name: 'Filter' }).click();
  await choose(page.getByRole('dialog', { name: 'Add a filter' }).getByRole('combobox'), 'state');
  await page.getByLabel('reported').check();
  await page.getByRole('button', { name: 'Narrow the list' }).click();
  await expect(page.getByText(/^100 of \d,\d+ rows$/)).toBeVisible();
  await page.getByRole('grid').getByRole('button', { name: 'State' }).click();
  await page
    .getByRole('grid')
    .getByRole('button', { name: 'Fee' })
    .click({ modifiers: ['Shift'] });
  await expect(page.getByRole('columnheader', { name: /Fee/ })).toHaveAttribute('aria-sort', /ending/);
  // To the end of what is loaded, and on from there.
  await page.getByRole('grid').focus();
  await page.keyboard.press('Control+ArrowDown');
  await expect(page.getByText(/^200 of \d,\d+ rows$/)).toBeVisible();
  await page.keyboard.press('Control+Home');

  // What is being typed stays where it is, wherever somebody looks meanwhile. Of the columns those in sight are drawn.
  const grid = page.getByRole('grid');
  for (let i = 0; i < columns.indexOf('Fee'); i++) await page.keyboard.press('ArrowRight');
  await cell(page, 1, 'Fee').dblclick();
  await grid.getByRole('textbox', { name: 'Fee' }).fill('12.5');
  await grid.evaluate((box) => box.scrollTo(0, 5000));
  await expect(page.getByLabel('Select record 160', { exact: true })).toBeVisible();
  await grid.evaluate((box) => box.scrollTo(0, 0));
  await expect(page.getByLabel('Select record 1', { exact: true })).toBeVisible();
  await expect(grid.getByRole('textbox', { name: 'Fee' })).toHaveValue('12.5');
  await page.keyboard.press('Escape');
  const first = page.locator('[role=row][aria-rowindex="2"] [role=gridcell]');
  for (const [key, index] of [
    ['End', columns.length + 1],
    ['Home', 2],
  ] as const) {
    await page.keyboard.press(key);
    await expect(first.and(page.locator(`[aria-colindex="${index}"]`))).toBeInViewport();
    expect(await first.count()).toBeLessThan(columns.length);
  }

  // Visits that samples belong to stay, and are named; the others go and come back.
  await page.getByLabel('Select record 1', { exact: true }).check();
  await page.getByLabel('Select record 2', { exact: true }).check();
  await page.getByRole('button', { name: 'Delete 2 records of Visits' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Delete 2 records' }).click();
  await expect(page.getByRole('alert')).toContainText('0 of 2 deleted.');
  await expect(page.getByRole('alert')).toContainText('Other records belong to this one');

  await openGrid(page, 'advisories');
  await readColumns(page);
  await expect(page.getByText('38 rows')).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByLabel('all of the table').check();
  await page.getByRole('link', { name: 'Download advisories.csv' }).click();
  const csv = readFileSync(await (await download).path(), 'utf8');
  expect(csv.trim().split('\r\n').length).toBeGreaterThanOrEqual(39);
  await page.getByLabel('Spreadsheet (XLSX)').check();
  await page.getByRole('button', { name: 'Write advisories.xlsx' }).click();
  await expect(page.getByRole('link', { name: /advisories.xlsx, 38 rows/ })).toBeVisible();
  await page.keyboard.press('Escape');

  // A change of the portal first: undoing goes back through both in their order, and says which.
  await page.getByRole('button', { name: / columns$/ }).click();
  await page.getByLabel('Label of title').fill('Headline');
  await page.getByLabel('Label of title').blur();
  await expect(page.getByRole('button', { name: 'Undo: Describe advisories.title' })).toBeEnabled();
  await page.getByRole('button', { name: 'Rows', exact: true }).click();
  await page.getByLabel('Select all that are loaded').check();
  await page.getByRole('button', { name: 'Delete 38 records of Advisories' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Delete 38 records' }).click();
  await expect(page.getByText('38 records deleted.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Undo: delete 38 records' })).toBeEnabled();
  await expect(page.getByRole('grid')).toBeFocused();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('38 rows')).toBeVisible();
  await expect(page.getByRole('columnheader', { name: 'Headline' })).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('stepped')).toHaveText('Undone in the portal: Describe advisories.title');
  await expect(page.getByRole('columnheader', { name: 'Headline' })).toBeHidden();
  const again = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByLabel('CSV', { exact: true }).check();
  await page.getByLabel('all of the table').check();
  await page.getByRole('link', { name: 'Download advisories.csv' }).click();
  expect(readFileSync(await (await again).path(), 'utf8')).toBe(csv);
});

test(
  'a grid calls related records by their titles, keeps its question over a reload, and its record form tells ' +
    'every fault at its field',
  async ({ page }) => {
    await signInAsBuilder(page);
    await openGrid(page, 'visits');
    await expect(page.getByRole('gridcell', { name: /^AF-\d{4}$/ }).first()).toBeVisible();
    await page.getByRole('button', { name: 'State', exact: true }).click();
    await page.getByLabel('Find in visits').fill('dog');
    await page.getByLabel('Find in visits').press('Enter');
    await expect(page).toHaveURL(/find=dog/);
    const found = page.getByText(/^[\d,]+ (of [\d,]+ )?rows$/);
    await expect(found).not.toHaveText('100 of 2,600 rows');
    const before = await found.textContent();
    await page.reload();
    await expect(page.getByLabel('Find in visits')).toHaveValue('dog');
    await expect(page.getByRole('columnheader', { name: /^State/ })).toHaveAttribute('aria-sort', 'ascending');
    await expect(found).toHaveText(before!);

    await page.getByRole('button', { name: 'Record', exact: true }).click();
    const form = page.getByRole('complementary', { name: 'New record' });
    await form.getByLabel('Fee', { exact: true }).fill('abc');
    await form.getByLabel('Planned for', { exact: true }).fill('soon');
    await form.getByRole('button', { name: 'Add it' }).click();
    await expect(form.getByText('This needs a value.')).toHaveCount(3);
    await expect(form.getByText('This is not a date and time. Write it like 2026-11-24 09:30.')).toBeVisible();
    await expect(form.getByRole('combobox', { name: 'Well' })).toBeFocused();
    await expectAccessible(page, 'a record form with its faults');
    await form.getByRole('combobox', { name: 'Well' }).fill('AF-0231');
    await expect(form.getByRole('option', { name: /AF-0231/ })).toBeVisible();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await form.getByLabel('Asked on', { exact: true }).fill('2026-11-24');
    await choose(form.getByLabel('State'), 'asked');
    await form.getByLabel('Planned for', { exact: true }).fill('2026-11-30 09:00');
    await form.getByLabel('Fee', { exact: true }).fill('12.50');
    await form.getByLabel('Access note').fill('a dog, brand new');
    await form.getByRole('button', { name: 'Add it' }).click();
    await expect(page.getByText('1 record added.')).toBeVisible();
    await form.getByRole('button', { name: 'Close the record' }).click();
    const made = page.getByRole('row').filter({ hasText: 'a dog, brand new' });
    await expect(made.getByRole('gridcell', { name: 'AF-0231' })).toBeVisible();
    // The editor of a cell finds by the title, and takes it by name.
    await made.getByRole('gridcell', { name: 'AF-0231' }).dblclick();
    await page.getByRole('combobox', { name: 'Well' }).fill('AF-0232');
    await page.getByRole('option', { name: /AF-0232/ }).click();
    await expect(made.getByRole('gridcell', { name: 'AF-0232' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'Undo: change Well' })).toBeEnabled();
    await page.keyboard.press('Control+z');
    await expect(made.getByRole('gridcell', { name: 'AF-0231' })).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(made).toBeHidden();
  },
);
