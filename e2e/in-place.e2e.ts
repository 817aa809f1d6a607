import { expect } from '@playwright/test';
import { expectAccessible, plainSql, signIn, test } from './steps';

test('a fee is changed in the list itself, by the keyboard; a bad one and a change in between are said there', async ({
  page,
  baseURL,
}) => {
  const sql = await plainSql(baseURL!);
  const fee = async (id: string) =>
    (await sql.query<{ fee: string }[]>('SELECT CAST(fee AS CHAR) fee FROM visits WHERE id = ?', [id]))[0]!.fee;
  await signIn(page, 'odile.fennimore@example.org', '/p/alder-fen/all-visits');
  const row = page.getByRole('row').nth(1);
  const id = /visits\/(\d+)/.exec((await row.getByRole('link').first().getAttribute('href'))!)![1]!;
  const pencil = row.getByRole('button', { name: /^Change Fee of / });
  await pencil.focus();
  await page.keyboard.press('Enter');
  const input = row.getByRole('textbox', { name: /^Fee of / });
  await expect(input).toBeFocused();
  await expectAccessible(page, 'a cell being changed');
  await input.fill('a lot');
  await page.keyboard.press('Enter');
  await expect(row.getByRole('alert')).toContainText(/number/);
  await expect(input).toHaveValue('a lot');
  // Somebody else is quicker.
  await sql.query('UPDATE visits SET fee = 11.50 WHERE id = ?', [id]);
  await input.fill('77.25');
  await page.keyboard.press('Enter');
  await expect(row.getByRole('alert')).toContainText('It was changed to “11.50” meanwhile');
  expect(await fee(id)).toBe('11.50');
  await row.getByRole('button', { name: /^Keep Fee of / }).click();
  await expect(row).toContainText('77.25');
  await expect(pencil).toBeFocused();
  expect(await fee(id)).toBe('77.25');

  await pencil.press('Enter');
  await input.fill('1');
  await page.keyboard.press('Escape');
  await expect(row).toContainText('77.25');
  // What follows from it is right at once: the sum below, and the record beside.
  await row.getByRole('link').first().click();
  await expect(page.getByRole('region', { name: 'Record' }).getByLabel('Fee')).toHaveValue('77.25');
  await page.getByRole('link', { name: 'Close' }).click();
  await row.getByRole('button', { name: /^Change Paid of / }).click();
  await row.getByLabel(/^Paid of /).focus();
  await expectAccessible(page, 'a choice being changed in a list');
  await row.getByRole('button', { name: /^Leave Paid of / }).click();
  await sql.end();
});
