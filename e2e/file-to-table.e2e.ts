import { expect } from './expect';
import { choose, expectAccessible, seeAs, signInAsBuilder, test } from './steps';

const csv =
  'Well code;Tested on;Nitrate mg/l;Passed;Note\nAF-0231;2026-10-01;12.50;yes;\n' +
  'AF-0232;2026-10-02;61;no;"high; again"\nAF-0419;;7.25;yes;3/4/2026\n';

test('a file becomes a table with its types, a wrong choice says where, and nothing is made of it', async ({
  page,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/data');
  await page.getByRole('button', { name: '+ from a file' }).click();
  const bring = (content: string, name: string) =>
    page
      .getByLabel('File', { exact: true })
      .setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(content) });

  await bring('a,b\n1,2,3\n', 'ragged.csv');
  await expect(page.getByText('Record 2 has 3 values, the first has 2.')).toBeVisible();
  await bring(csv, 'Nitrate tests.csv');
  await expect(
    page.getByText('3 rows in 5 columns, in UTF-8, divided by semicolons, the first line names the columns.'),
  ).toBeVisible();
  await expect(page.getByLabel('Type of Nitrate mg/l')).toHaveText('decimal');
  await expect(page.getByLabel('Type of Tested on')).toHaveText('date');
  await expect(page.getByLabel('Name of the table')).toHaveValue('nitrate_tests');
  await expectAccessible(page, 'a file to become a table');

  await choose(page.getByLabel('Type of Well code'), 'whole number');
  await page.getByRole('button', { name: 'Make nitrate_tests with 3 rows' }).click();
  await expect(page.getByText("3 values don't fit, so nothing was made.")).toBeVisible();
  await expect(page.getByText('row 2, Well code, “AF-0231”: This is not a whole number.')).toBeVisible();
  await choose(page.getByLabel('Type of Well code'), 'text');
  await page.getByRole('button', { name: 'Make nitrate_tests with 3 rows' }).click();

  await expect(page.getByRole('heading', { name: 'nitrate_tests' }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Rows', exact: true }).click();
  await expect(page.getByRole('grid').getByText('61.00')).toBeVisible();
  // Its codes are those of wells, so the way there is offered.
  await page.getByRole('button', { name: '6 columns' }).click();
  await page.getByRole('button', { name: 'relate to wells: 3 of 3 values are found in wells.code' }).click();
  await expect(page.getByText('well → wells')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Take the relation off well_code' })).toBeVisible();
  await expectAccessible(page, 'a relation that was declared');

  // It is open to nobody until somebody is granted it.
  await page.goto('/build/alder-fen/access/nitrate_tests');
  await seeAs(page, 'Ines Brannock');
  await expect(page.getByTestId('seen-count')).toContainText('0 of 3');
});
