import { expect } from '@playwright/test';
import { expectAccessible, seeAs, signIn, signInAsBuilder, test } from './steps';

for (const [colorScheme, rules] of [
  ['light', 'all'],
  ['dark', 'of colour'],
] as const) {
  test.describe(`in ${colorScheme}`, () => {
    test.use({ colorScheme });

    test('axe finds nothing serious in the portal', async ({ page }) => {
      await page.goto('/p/alder-fen');
      await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
      await expectAccessible(page, 'sign-in', rules);
      await signIn(page, 'ines.brannock@example.org');
      await expect(page.getByText('3 in all')).toBeVisible();
      await expectAccessible(page, 'list', rules);
      await page.getByRole('button', { name: 'Filter' }).click();
      await expect(page.getByRole('button', { name: 'Narrow the list' })).toBeVisible();
      await expectAccessible(page, 'filter', rules);
      await page.goto('/p/alder-fen/my-details/17');
      await expect(page.getByLabel('Phone')).toBeVisible();
      await expectAccessible(page, 'record', rules);
      await page.setViewportSize({ width: 375, height: 740 });
      await page.goto('/p/alder-fen/my-wells');
      await expect(page.getByRole('listitem').first()).toBeVisible();
      await expectAccessible(page, 'phone', rules);
    });

    test('axe finds nothing serious on the bench', async ({ page }) => {
      await signInAsBuilder(page);
      await expectAccessible(page, 'portals', rules);
      await page.goto('/build/alder-fen/data/owners');
      await seeAs(page, 'Mara Lindqvist');
      const views: [string, string][] = [
        ['data/owners', 'birth_date'],
        ['people/members', 'Ada Adair'],
        ['people/roles', 'New role'],
        ['people/lab_staff', 'Holds for'],
        ['access/~lifecycles', 'filled in by then'],
        ['access/~fences', 'Exempt roles'],
        ['access/visits?role=sampler&column=access_note', 'Lets through'],
        ['access/owners?role=well_owner&column=tax_number', 'what stays'],
        ['access/~masks', 'what stays'],
        ['access/~who?class=identity', 'through'],
        ['pages/my-visits', 'List of visits'],
        ['check', 'Go there'],
        ['publish/versions', 'What is new'],
        ['publish/definition', 'Apply a file'],
      ];
      for (const [path, words] of views) {
        await page.goto(`/build/alder-fen/${path}`);
        await expect(page.getByText(words).first()).toBeVisible();
        await expect(page.getByTestId('seen-count')).toBeVisible();
        await expectAccessible(page, path, rules);
      }
    });
  });
}
