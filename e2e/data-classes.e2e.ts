import { expect } from './expect';
import { expectAccessible, signInAsBuilder, test } from './steps';

test('columns that look like personal data are named with their evidence, and get their class with one press', async ({
  page,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/fen-fresh/data/wells');
  await expect(
    page.getByText('2 columns look like personal data without a data class: address, postcode.'),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'location: 520 of 520 are postcodes' })).toBeVisible();
  await expectAccessible(page, 'suggested data classes');
  await page.getByRole('button', { name: /^contact: 5\d\d of 520 are addresses$/ }).click();
  await expect(page.getByLabel('Data class of address')).toHaveText('contact');
  await page.getByRole('button', { name: 'Give it the data class' }).click();
  await expect(page.getByLabel('Data class of postcode')).toHaveText('location');
  await expect(page.getByText('look like personal data')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo: Give a column of wells a data class' }).click();
  await expect(page.getByLabel('Data class of postcode')).toHaveText('none');
});
