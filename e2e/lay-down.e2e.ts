import { expect } from './expect';
import { choose, expectAccessible, seeAs, signInAsBuilder, test } from './steps';

test('pages are laid down from what a role sees, in one press, and taken back in one', async ({ page }) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/pages');
  await seeAs(page, 'Mara Lindqvist');
  await page.getByRole('button', { name: 'Lay down …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Lay down pages' });
  await choose(dialog.getByLabel('For the role'), 'Sampler');
  await expect(dialog.getByRole('checkbox', { name: /^At a glance: / })).toBeChecked();
  await expectAccessible(page, 'laying pages down');
  await dialog.getByRole('button', { name: /^Lay down \d pages$/ }).click();
  await expect(page.getByRole('heading', { name: 'At a glance', level: 1 }).first()).toBeVisible();
  // As she gets it: numbers, drawings, and the list that they are of.
  const seen = page.getByRole('complementary', { name: 'Seen by' });
  await seen.getByRole('link', { name: 'At a glance' }).last().click();
  await expect(seen.getByRole('heading', { name: /in all$/ }).first()).toBeVisible();
  await expect(seen.getByRole('img').or(seen.getByRole('application')).first()).toBeVisible();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByText('There is no page at-a-glance', { exact: false })).toBeVisible();
});
