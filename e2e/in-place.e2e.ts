import type { PortalDefinition } from '../core/definition/definition';
import { firstList } from '../test/pages';
import { expect } from './expect';
import { choose, expectAccessible, onFreshDemo, plainSql, signIn, signInAsBuilder, test } from './steps';

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

  // Once more, while what the record has become is still on its way.
  await pencil.press('Enter');
  await input.fill('78.50');
  let arrive = () => {};
  const arrived = new Promise<void>((resolve) => (arrive = resolve));
  const record = new RegExp(`/records/visits/${id}\\?`);
  await page.route(record, async (route) => {
    await arrived;
    await route.fallback();
  });
  await page.keyboard.press('Enter');
  await expect(pencil).toBeFocused();
  await pencil.press('Enter');
  arrive();
  await input.fill('79.25');
  await page.keyboard.press('Enter');
  await expect(pencil).toBeFocused();
  expect(await fee(id)).toBe('79.25');
  await page.unroute(record);

  await pencil.press('Enter');
  await input.fill('1');
  await page.keyboard.press('Escape');
  await expect(row).toContainText('79.25');
  // What follows from it is right at once: the sum below, and the record beside.
  await row.getByRole('link').first().click();
  await expect(page.getByRole('region', { name: 'Record' }).getByLabel('Fee')).toHaveValue('79.25');
  await page.getByRole('link', { name: 'Close' }).click();
  await row.getByRole('button', { name: /^Change Paid of / }).click();
  await row.getByLabel(/^Paid of /).focus();
  await expectAccessible(page, 'a choice being changed in a list');
  await row.getByRole('button', { name: /^Leave Paid of / }).click();
  await sql.end();
});

test('records are added in the last line of a list, one after another; a bad one is said there', async ({
  page,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    const headers = { 'x-stone-porch': 'test' };
    const at = '/api/builder/portals/alder-fen';
    const draft = (await (await page.request.get(`${at}/definition`)).json()) as PortalDefinition;
    const list = firstList(draft.pages.find(({ id }) => id === 'notices'));
    Object.assign(list, { columns: ['parish', 'title', 'text', 'valid_until', 'published'], line: true });
    const put = await page.request.put(`${at}/definition`, { headers, data: draft });
    const { revision } = (await put.json()) as { revision: number };
    expect((await page.request.post(`${at}/versions`, { headers, data: { revision, note: '' } })).status()).toBe(201);

    await signIn(page, 'odile.fennimore@example.org', '/p/alder-fen/notices');
    const field = (name: string) => page.getByLabel(`${name} of a new line`, { exact: true });
    await expect(field('Title')).toBeVisible();
    await expectAccessible(page, 'a new line');
    await field('Parish').fill('Saltby');
    await field('Title').fill('Boil it on Monday');
    await field('Valid until').fill('someday');
    await field('Title').press('Enter');
    await expect(page.getByRole('alert').first()).toBeVisible();
    // Nothing typed is lost.
    await expect(field('Title')).toHaveValue('Boil it on Monday');
    await field('Valid until').fill('2040-01-31');
    await field('Text').fill('The main is being mended.');
    await choose(field('Published'), 'yes');
    await field('Title').press('Enter');
    await expect(page.getByText('Added.', { exact: true })).toBeVisible();
    await expect(field('Title')).toHaveValue('');
    await expect(field('Parish')).toBeFocused();
    const sql = await plainSql(baseURL!);
    const found = await sql.query<object[]>(
      'SELECT parish, text, published, CAST(valid_until AS CHAR) until FROM advisories ' +
        "WHERE title = 'Boil it on Monday'",
    );
    await sql.end();
    expect(found).toEqual([{ parish: 'Saltby', text: 'The main is being mended.', published: 1, until: '2040-01-31' }]);
    await expect(page.getByRole('cell', { name: 'Boil it on Monday' })).toBeVisible();
  });
});
