import { expect } from './expect';
import { Hand } from './hand';
import { expectAccessible, onFreshDemo, plainSql, publishNow, signIn, signInAsBuilder, test } from './steps';

test('an approval is laid down in one press: submitted, sent back, and approved by another', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    await page.goto('/build/alder-fen/pages/!actions');
    const hand = new Hand(page);
    await hand.press(page.getByRole('button', { name: 'Lay down an approval …' }));
    const dialog = page.getByRole('dialog', { name: 'An approval' });
    await hand.choose(dialog.getByLabel('Of records of'), 'Wells');
    await hand.press(dialog.getByRole('group', { name: 'Who submits' }).getByLabel('Well owner'));
    await hand.press(dialog.getByRole('group', { name: 'Who submits' }).getByLabel('Programme desk'));
    await hand.press(dialog.getByRole('group', { name: 'Who approves' }).getByLabel('Sampler'));
    await hand.press(dialog.getByRole('group', { name: 'Who approves' }).getByLabel('Parish steward'));
    await expectAccessible(page, 'an approval on the bench');
    await hand.press(dialog.getByRole('button', { name: 'Lay it down' }));
    await expect(page.getByRole('heading', { name: 'To approve', exact: true })).toBeVisible();
    console.log(`an approval with its page: ${hand.made} interactions`);
    expect(hand.made).toBeLessThanOrEqual(13);
    await publishNow(page);

    const sql = await plainSql(baseURL!);
    const [well] = await sql.query<{ code: string }[]>(
      "SELECT code FROM wells WHERE parish = 'Harrow End' AND state = 'active' ORDER BY id LIMIT 1",
    );
    const { code } = well!;
    const state = async () =>
      (await sql.query<{ state: string }[]>('SELECT state FROM wells WHERE code = ?', [code]))[0]!.state;
    const desk = await browser.newPage();
    const steward = await browser.newPage();
    try {
      const submit = async () => {
        await desk
          .getByRole('table')
          .getByRole('button', { name: /^Submit/ })
          .click();
        await expect.poll(state).toBe('resting');
      };
      await signIn(desk, 'odile.fennimore@example.org', `/p/alder-fen/all-wells?search=${code}`);
      await submit();
      await signIn(steward, 'anton.wray@example.org', '/p/alder-fen/to-approve-wells');
      const row = steward.getByRole('table').getByRole('row').filter({ hasText: code });
      await row.getByRole('button', { name: /^Send back/ }).click();
      await expect(steward.getByText('It is sent back.')).toBeVisible();
      await expect(row).toHaveCount(0);
      expect(await state()).toBe('active');
      await desk.reload();
      await submit();
      await steward.reload();
      await row.getByRole('button', { name: /^Approve/ }).click();
      await expect(steward.getByText('It is approved.')).toBeVisible();
      expect(await state()).toBe('closed');
    } finally {
      await sql.query("UPDATE wells SET state = 'active' WHERE code = ?", [code]);
      await sql.end();
      await desk.close();
      await steward.close();
    }
  });
});
