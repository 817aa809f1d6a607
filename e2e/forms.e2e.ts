import { expect } from './expect';
import { Hand } from './hand';
import { expectAccessible, onFreshDemo, plainSql, publishNow, seeAs, signIn, signInAsBuilder, test } from './steps';

test('whoever comes asks for a test on a phone, by the keyboard, and corrects what was sent', async ({
  page,
  baseURL,
}) => {
  await page.setViewportSize({ width: 390, height: 800 });
  await page.goto('/p/alder-fen/ask');
  const next = page.getByRole('button', { name: 'Next', exact: true });
  await expect(page.getByRole('listitem').filter({ hasText: '2. Your well' })).toBeVisible();
  await next.click();
  // All that is missing is said, and the first of it is gone to.
  await expect(page.getByText('This needs a value.')).toHaveCount(2);
  await expect(page.getByLabel('Name')).toBeFocused();
  await expectAccessible(page, 'a form with faults');
  await page.keyboard.type('Ines Sedge');
  await page.keyboard.press('Tab');
  await page.keyboard.type('ines.sedge');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('E-mail')).toHaveAttribute('aria-invalid', 'true');
  await page.getByLabel('E-mail').fill('ines.sedge@example.org');
  // A number brings a third step; taken away again, it is asked no more, and what was entered elsewhere stays.
  await page.getByLabel(/^Phone/).fill('01632 000 300');
  await expect(page.getByRole('listitem').filter({ hasText: '3. A day that suits you' })).toBeVisible();
  await next.click();
  await page.getByLabel('Parish').fill('Harrow End');
  // What was begun is still there after the page was loaded anew.
  await page.reload();
  await expect(page.getByText('What you had begun is still here.')).toBeVisible();
  await expect(page.getByLabel('Name')).toHaveValue('Ines Sedge');
  await next.click();
  await expect(page.getByLabel('Parish')).toHaveValue('Harrow End');
  await page.getByRole('button', { name: 'Back', exact: true }).click();
  await expect(page.getByLabel('Name')).toHaveValue('Ines Sedge');
  await next.click();
  await next.click();
  await expect(page.getByText('We ring in the week before')).toBeVisible();
  // Sent as soon as the page is ready, which may be quicker than anybody reads: then it is asked for again.
  const send = page.getByRole('button', { name: 'Ask for it' });
  await expect(async () => {
    if (await send.isVisible()) await send.click({ timeout: 1500 });
    await expect(page.getByText('Thank you.')).toBeVisible({ timeout: 1500 });
  }).toPass();
  await expectAccessible(page, 'a form that was sent');
  await page.getByRole('button', { name: 'Correct what I sent' }).click();
  await page.getByLabel('Name').fill('Ines Sedgewick');
  await next.click();
  await next.click();
  await page.getByRole('button', { name: 'Correct it' }).click();
  await expect(page.getByText('Corrected. Thank you.')).toBeVisible();
  const sql = await plainSql(baseURL!);
  try {
    const rows = await sql.query<{ name: string; email: string }[]>(
      "SELECT name, email FROM test_requests WHERE name LIKE 'Ines Sedge%'",
    );
    expect(rows.map(({ name, email }) => [name, email])).toEqual([['Ines Sedgewick', 'ines.sedge@example.org']]);
  } finally {
    await sql.end();
  }
});

test('a form in steps, one only when needed, with a day at first, is made from what a role may fill: counted', async ({
  page,
  browser,
}) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    await page.goto('/build/alder-fen/pages');
    await seeAs(page, 'Odile Fennimore');
    const hand = new Hand(page);
    await hand.press(page.getByRole('link', { name: 'Forms', exact: true }));
    await hand.choose(page.getByLabel('Make a form'), 'Visits, as Programme desk');
    await hand.write(page.getByLabel('Title', { exact: true }), 'A visit is asked for');
    await hand.press(page.getByRole('button', { name: '+ step', exact: true }));
    const second = page.getByRole('listitem', { name: 'Step Step 2' });
    await hand.write(second.getByLabel('Title of step 2'), 'What it costs');
    const first = page.getByRole('listitem', { name: 'Step A visit is asked for' });
    const costs = page.getByRole('listitem', { name: 'Step What it costs' });
    await hand.press(first.getByRole('button', { name: 'Move Fee down' }));
    await expect(costs.getByRole('listitem', { name: 'Fee' })).toBeVisible();
    await hand.press(costs.getByRole('button', { name: /^Only when … \(When the step/ }));
    const when = costs.getByRole('group', { name: /^When the step/ }).or(costs);
    await hand.choose(when.getByLabel('Column').first(), /^access note$/i);
    await hand.write(when.getByLabel('Value').first(), 'to pay');
    await hand.press(first.getByRole('button', { name: 'Arrange Asked on' }));
    await hand.press(first.getByRole('button', { name: /^\+ stands there at first/ }));
    await hand.choose(page.getByLabel('Put A visit is asked for on a page'), 'All visits');
    console.log(`a form in steps, made: ${hand.made} interactions`);
    expect(hand.made).toBeLessThanOrEqual(22);

    const seen = page.getByRole('complementary', { name: 'Seen by' });
    await seen.getByRole('navigation').getByRole('link', { name: 'All visits', exact: true }).click();
    await expect(seen.getByRole('textbox', { name: 'Asked on' })).not.toHaveValue('');
    await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
    await page.goto('/build/alder-fen/pages/!forms?rule=visits-form');
    await expect(page.getByRole('listitem', { name: 'Step What it costs' })).toBeVisible();
    await expectAccessible(page, 'a form on the bench', 'all', 'whole');

    await publishNow(page);
    const desk = await browser.newPage();
    try {
      await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/all-visits');
      const form = desk.getByRole('region', { name: 'A visit is asked for' }).or(desk.locator('main'));
      await form.getByRole('combobox', { name: 'Well' }).fill('AF-0231');
      await desk.getByRole('option', { name: /AF-0231/ }).click();
      await form.getByLabel(/^Access note/).fill('to pay');
      await form.getByRole('button', { name: 'Next', exact: true }).click();
      await form.getByLabel(/^Fee/).fill('85');
      await form.getByRole('button', { name: 'Send', exact: true }).click();
      await expect(form.getByText('It was sent. Thank you.')).toBeVisible();
    } finally {
      await desk.close();
    }
  });
});
