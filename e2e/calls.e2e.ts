import type { Page } from '@playwright/test';
import { expect } from './expect';
import { Hand } from './hand';
import { expectAccessible, onFreshDemo, plainSql, publishNow, signIn, signInAsBuilder, test } from './steps';

/** The courier's bottles, those that wait before all others. */
const waitingFirst = '/p/alder-fen/pick-ups?sort=handed_over_at';
const courier = 'nell.quillfeather707@example.org';

/** A bottle of the courier's that can be handed over yet. */
const waiting = (page: Page, button: RegExp) =>
  page
    .getByRole('table')
    .getByRole('row')
    .filter({ has: page.getByRole('button', { name: button }) })
    .first();

test('a courier hands a bottle over, and the tracker’s answer stands in the record; several at once are told', async ({
  page,
  baseURL,
}) => {
  await signIn(page, courier, waitingFirst);
  const code = (
    await waiting(page, /^Hand over/)
      .getByRole('link')
      .first()
      .innerText()
  ).trim();
  // By its code from here on: the buttons of a row above it may come later.
  const row = page.getByRole('table').getByRole('row', { name: new RegExp(code) });
  const hand = new Hand(page);
  await hand.press(row.getByRole('button', { name: /^Hand over/ }));
  await hand.write(page.getByLabel('Temperature in the box, °C'), '4.5');
  await hand.press(page.getByRole('dialog').getByRole('button', { name: 'Hand over' }));
  await expect(page.getByText('The lab has the bottle.')).toBeVisible();
  // The tracker answers when it has time for it.
  await expect(async () => {
    await page.goto(`/p/alder-fen/pick-ups?search=${code}`);
    await expect(row).toContainText(/BT-5\d{5}/, { timeout: 5_000 });
  }).toPass({ timeout: 60_000 });
  await page.goto(waitingFirst);

  const sql = await plainSql(baseURL!);
  try {
    const told = async () => {
      const [found] = await sql.query<{ n: bigint }[]>(
        "SELECT COUNT(*) n FROM samples WHERE temperature_c = 5.1 AND tracking_number LIKE 'BT-5%'",
      );
      return Number(found!.n);
    };
    const before = await told();
    const many = new Hand(page);
    const ticks = page.getByRole('table').getByRole('checkbox', { name: /^Choose B/ });
    for (let i = 0; i < 3; i++) await many.press(ticks.nth(i));
    const ticked = page.getByRole('region', { name: 'Ticked records' });
    await many.press(ticked.getByRole('button', { name: /^Hand over/ }));
    await many.write(page.getByLabel('Temperature in the box, °C'), '5.1');
    await many.press(page.getByRole('dialog').getByRole('button', { name: 'Hand over' }));
    await expect(page.getByText('The lab has the bottle.').first()).toBeVisible();
    console.log(`several ticked and handed over, with a service told: ${many.made} interactions`);
    expect(many.made).toBeLessThanOrEqual(12);
    await expect.poll(told).toBe(before + 3);
  } finally {
    await sql.end();
  }
});

test('a button that calls a service is made in ten interactions, tried, and what became of its calls is shown', async ({
  page,
  browser,
}) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    const definition = (await (await page.request.get('/api/builder/portals/alder-fen/definition')).json()) as {
      addresses: { url: string }[];
    };
    await page.goto('/build/alder-fen/pages/pick-ups');
    const hand = new Hand(page);
    await hand.press(page.getByRole('button', { name: '+ action', exact: true }));
    await hand.write(page.getByLabel('What its button says'), 'Ask the tracker');
    await hand.choose(page.getByLabel('Let it call'), 'another address …');
    const dialog = page.getByRole('dialog', { name: 'What shall be called?' });
    await hand.write(dialog.getByLabel('What it is called'), 'Tracker');
    await hand.write(dialog.getByLabel('Its address'), definition.addresses[0]!.url);
    await hand.press(dialog.getByRole('button', { name: 'Call it' }));
    const step = page.getByRole('listitem', { name: /^Step/ }).last();
    await hand.choose(step.getByLabel('Tell a column'), 'Bottle code');
    console.log(`a button with a call: ${hand.made} interactions`);
    expect(hand.made).toBeLessThanOrEqual(10);
    // The stand-in knows no secret of it: it says so, and that is told.
    await step.getByRole('button', { name: 'Try it with a sample' }).click();
    await expect(step.getByText(/It answered 401: .*not signed by a secret/)).toBeVisible();
    await expectAccessible(page, 'a call on the bench');
    await page
      .getByRole('listitem', { name: 'Step 1' })
      .getByRole('button', { name: /^Remove/ })
      .click();
    await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
    await publishNow(page);

    const portal = await browser.newPage();
    try {
      await signIn(portal, courier, waitingFirst);
      const row = waiting(portal, /^Ask the tracker/);
      await row.getByRole('button', { name: /^Ask the tracker/ }).click();
      await expect(portal.getByText('Ask the tracker: done.')).toBeVisible();
    } finally {
      await portal.close();
    }
    await page.goto('/build/alder-fen/pages/!calls');
    const calls = page.getByRole('region', { name: 'What was told' });
    const line = calls.getByRole('row').filter({ hasText: 'Ask the tracker' }).first();
    await expect(line).toContainText('It answered 401.');
    await expectAccessible(page, 'calls on the bench');
    await line.getByRole('link').click();
    const call = page.getByRole('region', { name: 'Call', exact: true });
    await expect(call.getByText(/"bottle_code": "B1/)).toBeVisible();
    await call.getByRole('button', { name: 'Make it again' }).click();
    await expect(call.getByText(/2 tries/)).toBeVisible();
  });
});
