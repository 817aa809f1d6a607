import type { Page } from '@playwright/test';
import { expect } from './expect';
import { expectAccessible, choose, password, signIn, test } from './steps';

const ines = 'ines.brannock@example.org';
const mara = 'mara.lindqvist@example.org';
/** Codes of all wells in the list, over all its pages. */
async function wellCodes(page: Page): Promise<string[]> {
  await expect(page.getByRole('row').nth(1)).toBeVisible();
  return page.locator('tbody tr td:first-child').allInnerTexts();
}

test("two owners in two browsers see their own wells and none of the other's, by no address", async ({ browser }) => {
  const [one, two] = [await (await browser.newContext()).newPage(), await (await browser.newContext()).newPage()];
  await signIn(one, ines, '/p/alder-fen/my-wells');
  await signIn(two, 'ada.adair247@example.org', '/p/alder-fen/my-wells');
  const [hers, his] = [await wellCodes(one), await wellCodes(two)];
  expect(hers).toEqual(['AF-0231', 'AF-0232', 'AF-0419']);
  expect(his).toContain('AF-0147');
  expect(his.filter((code) => hers.includes(code))).toEqual([]);

  // As addresses were before sections had ids, and as they are.
  await one.goto('/p/alder-fen/my-wells/231?sort=-code');
  await expect(one.getByRole('heading', { name: 'AF-0231' })).toBeVisible();
  await expect(one.getByRole('columnheader', { name: 'Code' })).toHaveAttribute('aria-sort', 'descending');
  await two.goto('/p/alder-fen/my-wells/wells/231');
  await expect(two.getByRole('heading', { name: 'Not found' })).toBeVisible();
  await two.goto('/p/alder-fen/my-wells/231');
  await expect(two.getByRole('heading', { name: 'Not found' })).toBeVisible();
  await expect(two.getByText("There is no such record, or it isn't open to you.")).toBeVisible();
  const answers = await two.evaluate(async () => {
    const ask = async (path: string, init?: RequestInit) =>
      (
        await fetch(`/api/portals/alder-fen${path}`, {
          headers: { 'x-stone-porch': 'web', 'content-type': 'application/json' },
          ...init,
        })
      ).status;
    return [
      await ask('/records/wells/231'),
      await ask('/records/wells/231', {
        method: 'PATCH',
        body: JSON.stringify({ changes: { treatment: { from: [], to: ['UV'] } } }),
      }),
      await ask('/records/wells?filter=code%20%3D%20%27AF-0231%27'),
    ];
  });
  expect(answers).toEqual([404, 404, 200]);
});

test('a wrong e-mail and a wrong password get the same words, and a deep link survives signing in', async ({
  page,
}) => {
  await page.goto('/p/alder-fen/my-wells/231');
  for (const [email, secret] of [
    [ines, 'wrong'],
    ['nobody@example.org', password],
  ] as const) {
    await page.getByLabel('E-mail').fill(email);
    await page.getByLabel('Password', { exact: true }).fill(secret);
    await page.getByRole('button', { name: 'Sign in', exact: true }).click();
    await expect(page.getByRole('alert')).toHaveText('The e-mail or the password is wrong. Check both and try again.');
  }
  await page.getByLabel('E-mail').fill(ines);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'AF-0231' })).toBeVisible();
  await expect(page).toHaveURL(/my-wells\/231$/);
  await page.getByRole('button', { name: 'Ines Brannock' }).click();
  await page.getByRole('menuitem', { name: 'Sign out' }).click();
  await expect(page.getByRole('link', { name: 'Sign in', exact: true })).toBeVisible();
  await page.goto('/p/alder-fen/my-wells/231');
  await expect(page.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
});

test('the list filters, sorts, searches and pages, and its address keeps all of that', async ({ page }) => {
  await signIn(page, mara);
  // The list in hand stays, marked as busy, until the next one is there.
  const settled = async () => {
    await expect(page.locator('[aria-busy=false] tbody tr').first()).toBeVisible();
  };
  await expect(page.getByText('25 of 259 visits')).toBeVisible();
  await page.getByRole('button', { name: 'Further' }).click();
  await expect(page.getByRole('button', { name: 'Back', exact: true })).toBeEnabled();
  await page.getByRole('button', { name: 'Back', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Back', exact: true })).toBeDisabled();

  await page.getByRole('button', { name: 'Filter' }).click();
  await choose(page.getByLabel('Column'), 'State');
  await page.getByRole('checkbox', { name: 'planned' }).check();
  await page.getByRole('button', { name: 'Narrow the list' }).click();
  await expect(page.getByText('State is one of "planned"')).toBeVisible();
  await settled();
  // Ticks stand first.
  const states = page.locator('tbody tr td:nth-child(6)');
  await expect(states.first()).toHaveText('planned');
  expect(new Set(await states.allInnerTexts())).toEqual(new Set(['planned']));
  await page.getByRole('button', { name: 'Well code' }).click();
  await expect(page.getByRole('columnheader', { name: 'Well code' })).toHaveAttribute('aria-sort', 'ascending');
  await settled();
  const sorted = await page.locator('tbody tr td:nth-child(2)').allInnerTexts();
  expect(sorted).toEqual([...sorted].sort());
  await page.reload();
  await expect(page.getByText('State is one of "planned"')).toBeVisible();
  await settled();
  expect(await page.locator('tbody tr td:nth-child(2)').allInnerTexts()).toEqual(sorted);

  await page.getByRole('searchbox').fill('no such well');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Nothing here matches what you look for.')).toBeVisible();
  await page.getByRole('button', { name: 'Show all' }).click();
  await expect(page.getByText('25 of 259 visits')).toBeVisible();
});

test(
  'an edit is saved, a bad value is named beside its field, and a change in between is a conflict with both ' +
    'values',
  async ({ page, browser }) => {
    const other = await (await browser.newContext()).newPage();
    for (const each of [page, other]) {
      await signIn(each, ines);
      await each.goto('/p/alder-fen/my-details');
      await expect(each.getByLabel('Phone')).toBeVisible();
    }
    await page.getByLabel('Phone').fill('0'.repeat(31));
    await page.getByRole('button', { name: 'Save 1 change' }).click();
    await expect(page.getByText('This has 31 characters; 30 fit. Shorten it.')).toBeVisible();
    await expect(page.getByLabel('Phone')).toHaveAttribute('aria-invalid', 'true');
    await expect(page.getByLabel('Phone')).toHaveValue('0'.repeat(31));
    await page.getByLabel('Phone').fill('01632 111111');
    await page.getByRole('button', { name: 'Save 1 change' }).click();
    await expect(page.getByText('Saved.')).toBeVisible();

    await other.getByLabel('Phone').fill('01632 222222');
    await choose(other.getByLabel('Write to me by'), 'phone');
    await other.getByRole('button', { name: 'Save 2 changes' }).click();
    await expect(other.getByText('It now says “01632 111111”; you wrote “01632 222222”.')).toBeVisible();
    await expect(other.getByText('Nothing of yours was saved yet.')).toBeVisible();
    await other.getByRole('button', { name: 'Use mine' }).click();
    await other.getByRole('button', { name: 'Save 2 changes' }).click();
    await expect(other.getByText('Saved.')).toBeVisible();
    await page.reload();
    await expect(page.getByLabel('Phone')).toHaveValue('01632 222222');

    // A rule of the table, in the builder's words.
    await page.getByLabel('Phone').fill('');
    await page.getByRole('button', { name: 'Save 1 change' }).click();
    await expect(page.getByText('To be rung you need to give a number.')).toBeVisible();
    await expect(page.getByLabel('Phone')).toHaveAttribute('aria-invalid', 'true');
  },
);

test('unsaved changes are guarded', async ({ page }) => {
  await signIn(page, ines);
  await page.goto('/p/alder-fen/my-details');
  await page.getByLabel('Postal address').fill('Elsewhere');
  await page.getByRole('link', { name: 'My wells' }).click();
  await expect(page.getByRole('alertdialog')).toContainText('Leave without saving?');
  await page.getByRole('button', { name: 'Stay here' }).click();
  await expect(page.getByLabel('Postal address')).toHaveValue('Elsewhere');
  await page.getByRole('button', { name: 'Discard' }).click();
  await page.getByRole('link', { name: 'My wells' }).click();
  await expect(page.getByRole('heading', { name: 'My wells' })).toBeVisible();
});

test('what was typed stays when the session ends, and is saved after signing in beside it', async ({
  page,
  context,
}) => {
  await signIn(page, ines);
  await page.goto('/p/alder-fen/my-details');
  await page.getByLabel('Postal address').fill('7 Heron Way, Harrow End');
  const cookies = await context.cookies();
  await context.clearCookies();
  await page.getByRole('button', { name: 'Save 1 change' }).click();
  await expect(page.getByText('You are not signed in, or your session has ended.')).toBeVisible();
  await expect(page.getByText('what you typed is not saved yet')).toBeVisible();
  await expect(page.getByLabel('Postal address')).toHaveValue('7 Heron Way, Harrow End');
  await context.addCookies(cookies);
  await page.getByRole('button', { name: 'Save 1 change' }).click();
  await expect(page.getByText('Saved.')).toBeVisible();
});

test('the keyboard alone signs in, finds a record and edits it', async ({ page }) => {
  await page.goto('/p/alder-fen/~sign-in');
  await expect(page.getByLabel('E-mail')).toBeVisible();
  const tabTo = async (matches: () => Promise<boolean>) => {
    for (let i = 0; i < 60; i++) {
      if (await matches()) return;
      await page.keyboard.press('Tab');
    }
    throw new Error('the keyboard does not get there');
  };
  const focusIs = (locator: ReturnType<Page['locator']>) => async () =>
    locator.evaluate((element) => element === document.activeElement).catch(() => false);
  await tabTo(focusIs(page.getByLabel('E-mail')));
  await page.keyboard.type(mara);
  await page.keyboard.press('Tab');
  await page.keyboard.type(password);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('searchbox')).toBeVisible();
  await tabTo(focusIs(page.getByRole('searchbox')));
  await page.keyboard.type('AF-0453');
  await page.keyboard.press('Enter');
  const link = page.getByRole('link', { name: 'AF-0453' }).first();
  await expect(page.getByText(/in all|of \d+ visits/)).toBeVisible();
  await expect(page.locator('[aria-busy=false] tbody tr td:nth-child(2)').last()).toHaveText('AF-0453');
  await tabTo(focusIs(link));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'AF-0453' })).toBeFocused();
  await tabTo(focusIs(page.getByLabel('Access note')));
  await page.keyboard.press('Control+A');
  await page.keyboard.type('By keyboard alone');
  await page.keyboard.press('Tab');
  await tabTo(focusIs(page.getByRole('button', { name: 'Save 1 change' })));
  await page.keyboard.press('Enter');
  await expect(page.getByText('Saved.')).toBeVisible();
});

test('a phone is wide enough: nothing runs off, pages stand at the bottom, a record is a page', async ({ page }) => {
  await page.setViewportSize({ width: 360, height: 740 });
  await signIn(page, mara);
  const overflow = () =>
    page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  await expect(page.getByRole('listitem').first()).toBeVisible();
  expect(await overflow()).toBe(0);
  const bottom = await page.getByRole('navigation', { name: 'Pages' }).boundingBox();
  expect(bottom!.y + bottom!.height).toBeCloseTo(740, 0);
  await page.getByRole('listitem').getByRole('link').first().click();
  await expect(page.getByLabel('Access note')).toBeVisible();
  expect(await overflow()).toBe(0);
  await page.getByRole('link', { name: 'List' }).click();
  await expect(page.getByRole('heading', { name: 'My visits' })).toBeVisible();
});

test('whoever has not signed in reads what is public, finds the sign-in in the corner, and nothing else', async ({
  page,
}) => {
  await page.goto('/p/alder-fen');
  await expect(page.getByRole('heading', { name: 'Advisories' })).toBeVisible();
  await expect(page.getByRole('navigation', { name: 'Pages' }).first().getByRole('link')).toHaveText([
    'Advisories',
    'Ask for a test',
    'A doubtful well',
  ]);
  await expect(page.getByRole('button', { name: 'Views' })).toHaveCount(0);
  await expectAccessible(page, 'public pages');
  await page.getByRole('row').nth(1).getByRole('link').first().click();
  await expect(page.getByRole('region', { name: 'Record' }).getByRole('heading', { level: 2 })).not.toHaveText(
    'Record',
  );
  await expect(page.getByRole('button', { name: 'Save' })).toHaveCount(0);
  await page.setViewportSize({ width: 390, height: 780 });
  await page.goto('/p/alder-fen/advisories');
  await expect(page.getByRole('listitem').first()).toBeVisible();
  await expectAccessible(page, 'public pages on a phone');

  // What is not public is behind the sign-in, and is there once one is in.
  await page.goto('/p/alder-fen/my-wells/231');
  await expect(page.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
  await page.goto('/p/alder-fen');
  await page.getByRole('link', { name: 'Sign in', exact: true }).click();
  await page.getByLabel('E-mail').fill(ines);
  await page.getByLabel('Password', { exact: true }).fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Home' })).toBeVisible();
  await expect(page).toHaveURL(/\/p\/alder-fen$/);
  await page.goto('/p/alder-fen/~sign-in');
  await expect(page.getByRole('heading', { name: 'Home' })).toBeVisible();
});
