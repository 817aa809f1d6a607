import { expect } from './expect';
import { choose, expectAccessible, plainSql, signInAsBuilder, test } from './steps';

test('tables are drawn, scripted, asked for and changed, and what was deleted comes back', async ({
  page,
  baseURL,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/data');
  const button = (name: string | RegExp) => page.getByRole('button', { name });

  await button('+ drawn').click();
  await page.getByLabel('Name of the table').fill('pump_orders');
  await page.getByLabel('Name', { exact: true }).fill('state');
  await choose(page.getByLabel('Type', { exact: true }), 'one choice');
  await page.getByLabel('Choice 1', { exact: true }).fill('new');
  await choose(page.getByLabel('Colour of choice 1'), 'lichen');
  await button('another choice').click();
  await page.getByLabel('Choice 2', { exact: true }).fill('12');
  await expectAccessible(page, 'a table being drawn');
  await button('Make pump_orders').click();
  await expect(page.getByRole('heading', { name: 'pump_orders' })).toBeVisible();

  await button('Rows').click();
  await page.getByRole('button', { name: 'Record', exact: true }).click();
  const fresh = page.getByRole('complementary', { name: 'New record' });
  await choose(fresh.getByLabel('State'), 'new');
  await fresh.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByText('1 record added.')).toBeVisible();
  await expect(page.getByRole('gridcell').getByText('new')).toHaveClass(/mark-1/);

  // Another type says first what would be lost; a new name and the way back.
  await button('4 columns').click();
  await button('Change state').click();
  await choose(page.getByLabel('Type', { exact: true }), 'whole number');
  await button('Look what would be lost').click();
  await expect(page.getByText("1 of 1 values don't fit and would be empty:")).toBeVisible();
  await expect(page.getByText('record 1, “new”: This is not a whole number.')).toBeVisible();
  await expectAccessible(page, 'a column being changed');
  await page.getByLabel('Name', { exact: true }).fill('standing');
  await button('Rename it').click();
  await expect(button('Change standing')).toBeVisible();
  await button('Change standing').click();
  await button('Delete standing').click();
  await expect(button('Have standing back')).toBeVisible();
  await button('Have standing back').click();
  await expect(button('Change standing')).toBeVisible();

  await button('+ from SQL').click();
  await page
    .getByLabel('Script')
    .fill('CREATE TABLE tanks (id INT AUTO_INCREMENT PRIMARY KEY, litres INT NOT NULL);\nDROP TABLE wells;');
  await button('Look what it would make').click();
  await expect(page.getByText('Line 2: DROP TABLE is not taken.')).toBeVisible();
  await page
    .getByLabel('Script')
    .fill(
      'CREATE TABLE tanks (id INT AUTO_INCREMENT PRIMARY KEY, litres INT NOT NULL);\nINSERT INTO tanks ' +
        '(litres) VALUES (50), (70);',
    );
  await button('Look what it would make').click();
  await expect(page.getByRole('region', { name: 'What it would make' })).toContainText('2 rows');
  await button('Make tanks').click();
  // The preview names it too; it is made when it stands among the tables.
  await expect(page.getByRole('link', { name: /^tanks/i })).toBeVisible();
  await expect(page.getByRole('heading', { name: 'tanks', level: 1 })).toBeVisible();

  await button('+ from a query').click();
  await page.getByLabel('Name of the table').fill('tank_sizes');
  await page
    .getByLabel('One SELECT')
    .fill('SELECT litres AS litres, COUNT(*) AS tanks FROM tanks, mysql.user GROUP BY litres');
  await button('Try it').click();
  await expect(page.getByText('A saved query stays in alder_fen; mysql is elsewhere.')).toBeVisible();
  await page.getByLabel('One SELECT').fill('SELECT litres AS litres, COUNT(*) AS tanks FROM tanks GROUP BY litres');
  await button('Try it').click();
  await page.getByRole('checkbox', { name: 'litres' }).check();
  await button('Keep tank_sizes as a table').click();
  await expect(
    page.getByText('A saved query: it can be read and granted like any table, and never written.'),
  ).toBeVisible();
  await expect(page.getByText('made of tanks.litres')).toBeVisible();
  await button('Set litres apart').click();
  await page.getByLabel('Why litres is not what it comes from').fill('sizes alone');
  await button('Set it apart').click();
  await expect(page.getByText('set apart: sizes alone')).toBeVisible();
  await expectAccessible(page, 'a column of a query that is set apart');
  await button('Let litres keep what it comes from').click();
  await expect(page.getByText('set apart: sizes alone')).toBeHidden();

  // A ceiling closes the workplace's own grid too.
  await page.getByRole('link', { name: /^tanks/i }).click();
  await button('Ceiling').click();
  await page.getByLabel('Records may be changed').uncheck();
  await expectAccessible(page, 'a ceiling');
  await button('Keep this ceiling').click();
  await expect(button('Keep this ceiling')).toBeDisabled();
  await button('Rows').click();
  // What was known of the table before may still stand there for a moment.
  await expect(async () => {
    await page.keyboard.press('Escape');
    await page.getByRole('gridcell').nth(1).dblclick();
    await expect(page.getByText("Litres can't be changed here.")).toBeVisible({ timeout: 2000 });
  }).toPass();
  await button('Look again').click();
  await expect(page.getByText(/It is remembered how the tables are now|Nothing has changed/)).toBeVisible();

  // A view has no key; its records are opened by what tells them apart, by the builder's word.
  const sql = await plainSql(baseURL!);
  await sql.query('CREATE VIEW tank_view AS SELECT id AS tank, litres, 1 AS one FROM tanks');
  await sql.end();
  await button('Look again').click();
  await page.reload();
  await page.getByRole('link', { name: /^tank.view/i }).click();
  await button('Say what tells them apart').click();
  await page.getByRole('checkbox', { name: /^one/ }).check();
  await button('Try it and keep it').click();
  await expect(
    page.getByText("one is empty or the same in several records, so it can't tell them apart."),
  ).toBeVisible();
  await expectAccessible(page, 'what tells records apart');
  await page.getByRole('checkbox', { name: /^one/ }).uncheck();
  await page.getByRole('checkbox', { name: /^tank/ }).check();
  // Rows that were asked before the draft was kept are asked again once it is.
  const asked = page.waitForResponse(/\/records\/tank_view\?/);
  await page.route('**/draft', async (route) => {
    if (route.request().method() === 'PATCH') await asked;
    await route.continue();
  });
  await button('Try it and keep it').click();
  await expect(page.getByText('Its records are told apart by tank, by your word.')).toBeVisible();
  await button('Rows').click();
  await page.getByRole('button', { name: 'Open record 1' }).click();
  await expect(page.getByRole('complementary', { name: 'Record', exact: true })).toBeVisible();
});
