import { expect } from './expect';
import { choose, expectAccessible, signIn, signInAsBuilder, test } from './steps';

test('what changed in a well is read by its owner and the desk, by the keyboard; the workplace erases it', async ({
  page,
  browser,
  baseURL,
}) => {
  const desk = await (await browser.newContext({ baseURL })).newPage();
  await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/all-wells/wells/231');
  const record = desk.getByRole('region', { name: 'Record' });
  const depth = record.getByLabel('Depth, m');
  const was = await depth.inputValue();
  await depth.fill(was === '88.5' ? '77.5' : '88.5');
  await record.getByRole('button', { name: 'Save' }).click();
  await expect(record.getByText('Saved.')).toBeVisible();

  await signIn(page, 'ines.brannock@example.org', '/p/alder-fen/my-wells/wells/231');
  const past = page.getByRole('region', { name: 'What changed' });
  const opener = past.getByRole('button', { name: 'What changed' });
  await opener.focus();
  await page.keyboard.press('Enter');
  await expect(opener).toHaveAttribute('aria-expanded', 'true');
  await expect(past.getByRole('listitem').first()).toContainText(/changed it.*Depth, m.*(88|77)\.5/s);
  await expectAccessible(page, 'what changed in a record');

  await signInAsBuilder(desk);
  await desk.goto('/build/alder-fen/data/wells?show=rows&open=231');
  await desk.getByRole('button', { name: 'What changed' }).click();
  const kept = desk.getByRole('region', { name: 'What changed' });
  await expect(kept.getByRole('listitem').first()).toContainText('Odile Fennimore changed it');
  await desk.getByRole('button', { name: 'Erase what stood here' }).click();
  await desk.getByRole('button', { name: 'Erase it' }).click();
  await expect(kept.getByText('What stood there was erased.').first()).toBeVisible();
  await expectAccessible(desk, 'a history that was erased');
  await page.reload();
  await opener.click();
  await expect(past.getByText('Nothing that you may read has changed since this is kept.')).toBeVisible();

  await desk.goto('/build/alder-fen/data/wells?show=history');
  await expect(desk.getByRole('checkbox', { name: 'Keep what changes in wells' })).toBeChecked();
  await expectAccessible(desk, 'keeping what changes');
  await desk.goto('/build/alder-fen/access/wells?role=well_owner&do=history');
  await expect(desk.getByRole('checkbox', { name: /They read what changed/ })).toBeChecked();
});

test('who could see a column a moment ago is found, and an access review is signed line by line', async ({ page }) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/publish/who-then');
  await choose(page.getByLabel('Table', { exact: true }), 'Wells');
  await choose(page.getByLabel('Column', { exact: true }), 'Postcode');
  // Before the portal was there nobody could see anything of it.
  await page.getByLabel('When').fill('2020-01-01T10:00');
  await page.getByRole('button', { name: 'Look it up' }).click();
  await expect(page.getByText('Nothing was live then, so nobody could see anything of it.')).toBeVisible();
  await expectAccessible(page, 'who could see it');

  await page.getByRole('link', { name: 'Access reviews' }).click();
  await choose(page.getByLabel('Colleague who signs'), /Wren Ashby/);
  await page.getByRole('button', { name: 'Send it' }).click();
  await page.getByRole('link', { name: 'Sign it' }).first().click();
  await page.getByRole('button', { name: 'Right: Well owner, Wells' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^Right, says Wren Ashby/)).toBeVisible();
  await page.getByRole('button', { name: 'Wrong: Well owner, Owners' }).click();
  await page.getByLabel('What it should be').fill('They need not see the tax number.');
  await page.getByRole('button', { name: 'Sign it as wrong' }).click();
  await expect(page.getByText(/^Wrong, says Wren Ashby.*They need not see the tax number\.$/)).toBeVisible();
  await expectAccessible(page, 'an access review');
  await page.getByRole('link', { name: 'Access reviews' }).first().click();
  await expect(page.getByRole('row', { name: /Wren Ashby/ }).first()).toContainText(/open, 1 wrong/);
});
