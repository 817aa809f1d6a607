import type { Page } from '@playwright/test';
import { expect } from './expect';
import { expectAccessible, seeAs, signIn, signInAsBuilder, test } from './steps';

/** Every rule in light, and those of colour in dark, in the same state of the page. */
async function inLightAndDark(page: Page, what: string, part: 'whole' | 'all but Seen by' = 'whole'): Promise<void> {
  await expectAccessible(page, `${what}, in light`, 'all', part);
  await page.emulateMedia({ colorScheme: 'dark', reducedMotion: 'reduce' });
  await expectAccessible(page, `${what}, in the dark`, 'of colour', part);
  await page.emulateMedia({ colorScheme: 'light', reducedMotion: 'reduce' });
}

test('axe finds nothing in the portal', async ({ page }) => {
  await page.goto('/p/alder-fen/~sign-in');
  await expect(page.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
  await inLightAndDark(page, 'sign-in');
  await signIn(page, 'ines.brannock@example.org');
  await expect(page.getByRole('listitem').filter({ hasText: 'AF-0231' }).locator('img')).toBeVisible();
  await expect(page.getByText('above the limit').first()).toBeVisible();
  await inLightAndDark(page, 'home');
  await page.goto('/p/alder-fen/my-wells');
  await expect(page.getByText('3 in all')).toBeVisible();
  await inLightAndDark(page, 'list');
  await page.getByRole('button', { name: 'Filter' }).click();
  await expect(page.getByRole('button', { name: 'Narrow the list' })).toBeVisible();
  await inLightAndDark(page, 'filter');
  await page.goto('/p/alder-fen/my-details');
  await expect(page.getByLabel('Phone')).toBeVisible();
  await inLightAndDark(page, 'record');
  await page.setViewportSize({ width: 375, height: 740 });
  await page.goto('/p/alder-fen/my-wells');
  await expect(page.getByRole('listitem').first()).toBeVisible();
  await inLightAndDark(page, 'phone');
});

test('axe finds nothing on the bench', async ({ page }) => {
  // Fifteen views, each by light and by dark: on a slow machine that takes its time, and nothing is wrong.
  test.setTimeout(600_000);
  await signInAsBuilder(page);
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'Portals', exact: true })).toBeVisible();
  await inLightAndDark(page, 'portals');
  await page.goto('/build/alder-fen/data/owners');
  await seeAs(page, 'Mara Lindqvist');
  const views: [string, string][] = [
    ['data/owners', 'birth_date'],
    ['people/members', 'Ada Adair'],
    ['people/roles', 'New role'],
    ['people/lab_staff', 'Holds for'],
    ['access/~lifecycles?rule=visits', 'filled in by then'],
    ['access/~fences?rule=own-lab', 'Exempt roles'],
    ['access/visits?role=sampler&column=access_note', 'Lets through'],
    ['access/owners?role=well_owner&column=tax_number', 'what stays'],
    ['access/~masks?rule=owners-tax_number', 'what stays'],
    ['access/~who', 'Press one to see who that is'],
    ['access/~who?class=identity', 'through'],
    ['pages/my-visits', 'List of visits'],
    ['check', 'Go there'],
    ['publish/versions', 'What is new'],
    ['publish/definition', 'Bring a file'],
  ];
  let part: 'whole' | 'all but Seen by' = 'whole';
  for (const [path, words] of views) {
    // Within the page, as a press on a link does: the bench is not begun anew for each.
    await page.evaluate((to) => {
      history.pushState(null, '', to);
      dispatchEvent(new PopStateEvent('popstate'));
    }, `/build/alder-fen/${path}`);
    await expect(page.getByText(words).first()).toBeVisible();
    await expect(page.getByTestId('seen-count')).toBeVisible();
    await inLightAndDark(page, path, part);
    // Seen by shows the same person's portal beside every view: it is looked at once.
    part = 'all but Seen by';
  }
});
