import type { APIRequestContext } from '@playwright/test';
import { expect } from './expect';
import { choose, expectAccessible, signInAsBuilder, test } from './steps';

const ask = async (request: APIRequestContext, key: string): Promise<number> =>
  (
    await request.get('/api/v1/portals/alder-fen/records/samples', { headers: { authorization: `Bearer ${key}` } })
  ).status();

test('a key is made, used, replaced and ended; it is shown once', async ({ page, playwright, baseURL }) => {
  const program = await playwright.request.newContext({ baseURL: baseURL! });
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/publish/keys');
  await page.getByRole('button', { name: '+ key' }).click();
  const dialog = page.getByRole('dialog', { name: 'A key' });
  await expectAccessible(page, 'making a key');
  await dialog.getByLabel('What it is for').fill('Tracker of a lab');
  await dialog.getByLabel('Used from').fill('192.0.2.0/33');
  await page.keyboard.press('Enter');
  await expect(dialog.getByLabel('Used from')).toHaveAttribute('aria-invalid', 'true');
  await dialog.getByLabel('Used from').fill('');
  await page.keyboard.press('Enter');
  const told = page.getByTestId('new-key');
  const key = await told.innerText();
  expect(await ask(program, key)).toBe(200);
  await expectAccessible(page, 'a key that was made');
  await page.getByRole('button', { name: 'I have it' }).click();
  await expect(told).toHaveCount(0);
  await page.reload();
  const rows = page.getByRole('row').filter({ hasText: 'Tracker of a lab' });
  await expect(rows).toContainText(key.slice(0, 16));
  await expect(page.locator('body')).not.toContainText(key.slice(17));
  await expect(rows).toContainText('from ');

  const [reference] = await Promise.all([
    page.context().waitForEvent('page'),
    rows.getByRole('link', { name: 'Reference of Tracker of a lab' }).click(),
  ]);
  await expect(reference.getByRole('heading', { name: 'Alder Fen Wells, as Tracker of a lab has it' })).toBeVisible();
  await expect(reference.getByText('GET /api/v1/portals/alder-fen/records/samples/{id}')).toBeVisible();
  await expectAccessible(reference, 'the reference of a key');
  await reference.close();

  await rows.getByRole('button', { name: 'Replace Tracker of a lab' }).click();
  await page.getByRole('button', { name: 'Replace it' }).click();
  await expect(rows).toHaveCount(2);
  const next = await told.innerText();
  expect([await ask(program, key), await ask(program, next)]).toEqual([200, 200]);
  await rows.last().getByRole('button', { name: 'End Tracker of a lab' }).click();
  await page.getByRole('button', { name: 'End it' }).click();
  await expect(rows.last()).toContainText('ended');
  expect([await ask(program, key), await ask(program, next)]).toEqual([401, 200]);
  await program.dispose();

  // What was done stands in the log, which is looked through and proven.
  await page.getByRole('link', { name: 'Audit log' }).click();
  await page.getByLabel('Words').fill('Tracker of a lab');
  const log = page.getByRole('region', { name: 'Audit log' });
  // Made twice, replaced, ended, and refused once it was.
  await expect(log.getByRole('row')).toHaveCount(6);
  await choose(page.getByLabel('What'), 'replaced a key');
  await expect(log.getByRole('row')).toHaveCount(2);
  await page.getByRole('button', { name: 'Prove it' }).click();
  await expect(page.getByText(/of this installation, each of them as it was sealed/)).toBeVisible();
  await expectAccessible(page, 'the audit log');
});
