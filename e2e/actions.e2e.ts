import { expect } from './expect';
import { Hand } from './hand';
import {
  choose,
  expectAccessible,
  onFreshDemo,
  plainSql,
  publishNow,
  seeAs,
  signIn,
  signInAsBuilder,
  test,
} from './steps';

test('a sampler closes a visit from the list, hands several to the lab, and is told what can’t be', async ({
  page,
  baseURL,
}) => {
  await signIn(page, 'mara.lindqvist@example.org', '/p/alder-fen/my-visits');
  const list = page.getByRole('table').first();
  // By what it holds: buttons come a moment later than records, and not all at once.
  const row = list.getByRole('row').filter({ has: page.getByRole('cell', { name: 'planned', exact: true }) });
  const called = (await row.first().getByRole('link').first().innerText()).trim();
  await row
    .first()
    .getByRole('button', { name: /^Close visit/ })
    .click();
  const dialog = page.getByRole('dialog', { name: `Close visit: ${called}` });
  await dialog.getByRole('button', { name: 'Close visit' }).click();
  await expect(dialog.getByText('This needs a value.')).toBeVisible();
  await expect(dialog.getByLabel('Number of the seal')).toBeFocused();
  await expectAccessible(page, 'what an action asks');
  await page.keyboard.type('S900001');
  await page.keyboard.press('Enter');
  await expect(page.getByText('The visit is closed.')).toBeVisible();
  const closed = list.getByRole('row', { name: /S900001/ });
  // Taken back: it is planned again, and can be closed anew.
  await expect(closed).toContainText('sampled');
  await page.getByRole('status').getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Close visit: undone.')).toBeVisible();
  await expect(closed).toHaveCount(0);
  await row
    .first()
    .getByRole('button', { name: /^Close visit/ })
    .click();
  await dialog.getByLabel('Number of the seal').fill('S900001');
  await page.keyboard.press('Enter');
  await expect(page.getByText('The visit is closed.')).toBeVisible();
  await expect(closed).toContainText('sampled');
  await expect(closed.getByRole('button', { name: /^Close visit/ })).toHaveCount(0);

  // Only what can be handed over can be ticked.
  const ticks = list.getByRole('checkbox', { name: /^Choose AF/ });
  const all = await ticks.count();
  expect(all).toBeGreaterThan(1);
  expect(all).toBeLessThan(
    await list
      .getByRole('row')
      .filter({ has: page.getByRole('link') })
      .count(),
  );
  await list.getByRole('checkbox', { name: 'Choose all on this page' }).check();
  const ticked = page.getByRole('region', { name: 'Ticked records' });
  await ticked.getByRole('button', { name: /^Hand to the lab/ }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Hand to the lab' }).click();
  await expect(page.getByText(`Hand to the lab: done with ${all} records.`)).toBeVisible();
  const sql = await plainSql(baseURL!);
  try {
    const [one] = await sql.query<{ state: string }[]>("SELECT state FROM visits WHERE seal_number = 'S900001'");
    expect(one!.state).toBe('at lab');
  } finally {
    await sql.end();
  }
});

test('a button that sets a state and a date is made in six interactions, tried, and pressed by its people', async ({
  page,
  browser,
}) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    await page.goto('/build/alder-fen/pages/all-wells');
    await seeAs(page, 'Odile Fennimore');
    const hand = new Hand(page);
    await hand.press(page.getByRole('button', { name: '+ action', exact: true }));
    const step = page.getByRole('listitem', { name: 'Step 1' });
    await hand.write(page.getByLabel('What its button says'), 'Let it rest');
    await hand.press(step.getByRole('button', { name: '+ State' }));
    await hand.choose(step.getByLabel('Value'), 'resting');
    await hand.press(step.getByRole('button', { name: '+ Drilled' }));
    console.log(`a button that sets a state and a date: ${hand.made} interactions`);
    expect(hand.made).toBeLessThanOrEqual(6);
    await expect(step.getByLabel('What Drilled is filled with')).toContainText('today');
    await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
    await expectAccessible(page, 'an action on the bench');

    // Tried in Seen by, where nothing changes.
    const seen = page.getByRole('complementary', { name: 'Seen by' });
    await seen.getByRole('navigation').getByRole('link', { name: 'Wells', exact: true }).click();
    const first = seen.getByRole('listitem').filter({ has: page.getByRole('button', { name: /^Let it rest/ }) });
    await first
      .first()
      .getByRole('button', { name: /^Let it rest/ })
      .click();
    await expect(seen.getByText('Let it rest: tried, and it can be done. Nothing was changed.')).toBeVisible();

    await publishNow(page);
    const desk = await browser.newPage();
    try {
      await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/all-wells?search=AF-0419');
      await desk
        .getByRole('table')
        .getByRole('button', { name: /^Let it rest/ })
        .click();
      await expect(desk.getByText('Let it rest: done.')).toBeVisible();
      await expect(desk.getByRole('table').getByRole('row', { name: /AF-0419/ })).toContainText('resting');
      // And put back, by hand.
      await desk
        .getByRole('link', { name: /AF-0419/ })
        .first()
        .click();
      const record = desk.getByRole('region', { name: 'Record' });
      await choose(record.getByLabel('State'), 'active');
      await record.getByRole('button', { name: /^Save/ }).click();
      await expect(record.getByText('Saved.')).toBeVisible();
    } finally {
      await desk.close();
    }
  });
});
