import { expect } from './expect';
import { Hand } from './hand';
import type { PortalDefinition } from '../core/definition/definition';
import { choose, expectAccessible, onFreshDemo, plainSql, publishNow, signIn, signInAsBuilder, test } from './steps';

test('an owner asks for a visit from a well: counted, and on a phone', async ({ page, baseURL }) => {
  await signIn(page, 'ines.brannock@example.org', '/p/alder-fen/home');
  const hand = new Hand(page);
  await hand.press(page.getByRole('button', { name: /^Ask for a visit/ }).first());
  await expect(page.getByRole('heading', { name: 'Ask for a visit' })).toBeVisible();
  // What is known is there, and only this well's steps are.
  await expect(page.getByText('AF-0231', { exact: true })).toBeVisible();
  await expect(page.getByRole('navigation', { name: 'Steps' }).getByRole('listitem')).toHaveText([
    '1. Your well',
    '2. The day',
  ]);
  await page.setViewportSize({ width: 390, height: 800 });
  await expectAccessible(page, 'a form that is opened with a record');
  await hand.press(page.getByRole('button', { name: 'Next', exact: true }));
  await hand.write(page.getByLabel(/^What our sampler should know/), 'The gate of the browser test sticks.');
  await hand.press(page.getByRole('button', { name: 'Ask for it' }));
  await expect(page.getByText('The desk writes to you once a day is found.')).toBeVisible();
  console.log(`a visit is asked for: ${hand.made} interactions`);
  expect(hand.made).toBeLessThanOrEqual(22);
  const sql = await plainSql(baseURL!);
  try {
    const made = await sql.query<{ code: string; state: string; ahead: number }[]>(
      'SELECT w.code, v.state, DATEDIFF(v.planned_for, v.asked_on) ahead FROM visits v ' +
        "JOIN wells w ON w.id = v.well_id WHERE v.access_note = 'The gate of the browser test sticks.'",
    );
    expect(made.map(({ code, state, ahead }) => [code, state, Number(ahead)])).toEqual([['AF-0231', 'asked', 14]]);
  } finally {
    await sql.end();
  }
});

test('a form that changes records and one with lines are laid out, and used by two at once', async ({
  page,
  browser,
}) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    await page.goto('/build/alder-fen/pages/!forms');
    const hand = new Hand(page);
    // A form of what the desk may change, and a button that opens it.
    await hand.choose(page.getByLabel('Make a form'), 'change visits, as Programme desk');
    await hand.write(page.getByLabel('Title', { exact: true }), 'Mend a visit');
    const step = page.getByRole('listitem', { name: 'Step Mend a visit' });
    await hand.choose(step.getByLabel('Show something in Mend a visit'), 'Well · Code');
    await expect(step.getByRole('listitem', { name: 'Well · Code' })).toBeVisible();
    await hand.choose(page.getByLabel('Put Mend a visit on a page'), 'Requests');
    await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
    await page.goto('/build/alder-fen/pages/!actions');
    await hand.choose(page.getByLabel('Add an action with a record of'), 'Visits');
    await hand.write(page.getByLabel('What its button says'), 'Mend');
    await hand.press(page.getByRole('group', { name: 'Who may do it' }).getByLabel('Programme desk'));
    await hand.press(page.getByRole('button', { name: '+ go to a page' }));
    const go = page.getByRole('listitem', { name: 'Step 2' });
    await hand.choose(go.getByLabel('Which page'), 'Requests');
    await hand.press(go.getByLabel('to its form, with the record'));
    await hand.press(page.getByRole('listitem', { name: 'Step 1' }).getByRole('button', { name: /^Remove/ }));
    await expectAccessible(page, 'an action that opens a form');
    await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
    console.log(`a form that changes, with its button: ${hand.made} interactions`);
    await publishNow(page);

    const [one, other] = [await browser.newPage(), await browser.newPage()];
    try {
      for (const desk of [one, other]) {
        await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/all-visits');
        await desk.getByRole('table').first().getByRole('link').first().click();
        await desk.getByRole('button', { name: 'Mend', exact: true }).click();
        await expect(desk.getByRole('heading', { name: 'Mend a visit' })).toBeVisible();
        await expect(desk.getByRole('main').getByText(/^AF-\d{4}$/)).toBeVisible();
      }
      await one.getByLabel(/^Access note/).fill('first');
      await one.getByRole('button', { name: 'Send', exact: true }).click();
      await expect(one.getByText('It was sent. Thank you.')).toBeVisible();
      await other.getByLabel(/^Access note/).fill('second');
      await other.getByRole('button', { name: 'Send', exact: true }).click();
      await expect(other.getByText('Somebody changed this meanwhile: it is “first” now.')).toBeVisible();
      await expect(other.getByLabel(/^Access note/)).toHaveValue('second');
      await expectAccessible(other, 'a form with a conflict');
      await other.getByRole('button', { name: 'Send', exact: true }).click();
      await expect(other.getByText('It was sent. Thank you.')).toBeVisible();
    } finally {
      await one.close();
      await other.close();
    }
  });
});

test('lines are sent with a form: what is wrong is said at its line, and all are kept or none', async ({
  page,
  browser,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    const at = '/api/builder/portals/alder-fen/definition';
    const draft = (await (await page.request.get(at)).json()) as PortalDefinition;
    draft.access.samples!.desk!.create = { columns: ['visit_id', 'bottle_code', 'lab_id'] };
    draft.forms!.push({
      id: 'with-bottles',
      title: 'A visit with its bottles',
      table: 'visits',
      steps: [
        {
          id: 'one',
          title: 'The visit',
          parts: [
            { kind: 'input', column: 'well_id' },
            { kind: 'input', column: 'asked_on', first: { kind: 'clock', what: 'today' } },
          ],
        },
      ],
    });
    draft.pages.find(({ id }) => id === 'requests')!.sections = [{ id: 'form', kind: 'form', form: 'with-bottles' }];
    const headers = { 'x-stone-porch': 'test' };
    expect((await page.request.put(at, { headers, data: draft })).status()).toBe(200);
    await page.goto('/build/alder-fen/pages/!forms?rule=with-bottles');
    const step = page.getByRole('listitem', { name: 'Step The visit' });
    await choose(step.getByLabel('Send lines with The visit'), 'Samples');
    await expect(step.getByRole('listitem', { name: 'Samples' })).toBeVisible();
    await step.getByRole('button', { name: 'Arrange Samples' }).click();
    await expect(step.getByLabel('At least')).toHaveValue('1');
    await expectAccessible(page, 'a form with lines on the bench');
    await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
    await publishNow(page);

    const desk = await browser.newPage();
    const sql = await plainSql(baseURL!);
    try {
      const [taken] = await sql.query<{ bottle_code: string }[]>('SELECT bottle_code FROM samples LIMIT 1');
      await signIn(desk, 'odile.fennimore@example.org', '/p/alder-fen/requests');
      await desk.getByRole('combobox', { name: 'Well' }).fill('AF-0231');
      await desk.getByRole('option', { name: /AF-0231/ }).click();
      const line = (n: number) => desk.getByRole('listitem', { name: `Samples ${n}` });
      const fill = async (n: number, code: string) => {
        await line(n).getByLabel('Bottle code').fill(code);
        await line(n).getByRole('combobox', { name: 'Lab' }).click();
        await desk.getByRole('option').first().click();
      };
      await fill(1, 'L0000001');
      await desk.getByRole('button', { name: 'Add another of Samples' }).click();
      await expect(line(2).getByLabel('Bottle code')).toBeFocused();
      const send = desk.getByRole('button', { name: 'Send', exact: true });
      await send.click();
      await expect(line(2).getByText('This needs a value.').first()).toBeVisible();
      await expect(line(1).getByText('This needs a value.')).toHaveCount(0);
      await expectAccessible(desk, 'lines with faults');
      await fill(2, taken!.bottle_code);
      await send.click();
      await expect(line(2).getByLabel('Bottle code')).toHaveAttribute('aria-invalid', 'true');
      const kept = async () => {
        const [{ count }] = (await sql.query(
          "SELECT COUNT(*) count FROM samples WHERE bottle_code LIKE 'L000000%'",
        )) as [{ count: bigint }];
        return Number(count);
      };
      expect(await kept()).toBe(0);
      await line(2).getByLabel('Bottle code').fill('L0000002');
      await send.click();
      await expect(desk.getByText('It was sent. Thank you.')).toBeVisible();
      expect(await kept()).toBe(2);
    } finally {
      await sql.end();
      await desk.close();
    }
  });
});

test('what is done at a time, and what is brought from an address, is set on the bench', async ({ page }) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    await page.goto('/build/alder-fen/pages/!actions?rule=tell-owner');
    await choose(page.getByLabel('It is done'), 'by itself, each day at a time');
    await page.getByLabel('At', { exact: true }).fill('07:15');
    await page.getByLabel('At', { exact: true }).blur();
    await expect(page.getByText(/, each day at 07:15, by Post/)).toBeVisible();
    await expectAccessible(page, 'an action of a time');
    await page.goto('/build/alder-fen/pages/!calls');
    await choose(page.getByLabel('Add what is brought into'), 'Advisories');
    await expect(
      page.getByText(/^Advisories from outside, from Bottle tracker into advisories at 02:30/),
    ).toBeVisible();
    await choose(page.getByLabel('When some of it is refused'), 'the others are taken');
    await expectAccessible(page, 'what is brought each day');
    await page.getByRole('link', { name: 'Fetch it now, and tell where its columns go' }).click();
    await expect(page.getByRole('button', { name: 'Fetch Advisories from outside now' })).toBeVisible();
    await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
  });
});
