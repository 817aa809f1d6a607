import { expect } from './expect';
import { plainSql, choose, expectAccessible, signInAsBuilder, test } from './steps';

test(
  'a rule gives members their role by what their row holds; a finding that is meant so is accepted with its ' +
    'reason',
  async ({ page, baseURL }) => {
    await signInAsBuilder(page);
    const headers = { 'x-stone-porch': 'test' };
    expect(
      (
        await page.request.post('/api/builder/portals', {
          headers,
          data: { slug: 'fen-people', name: 'Fen people', schema: 'alder_fen', timeZone: 'Europe/London' },
        })
      ).status(),
    ).toBe(201);
    const bench = '/build/fen-people';
    await page.goto(`${bench}/people/roles`);
    for (const role of ['Chemist', 'Courier', 'Public']) {
      await page.getByLabel('New role').fill(role);
      await page.getByRole('button', { name: 'Add', exact: true }).click();
      await expect(page.getByLabel(`Name of ${role}`)).toBeVisible();
    }
    await choose(page.getByLabel('Whom Public is for'), 'for visitors');
    await choose(page.getByLabel('Add a roster'), 'lab staff');
    await page.getByRole('link', { name: /^lab.staff/i }).click();
    await choose(page.getByLabel('Everyone on it is'), 'what the rules below say');
    await expect(page.getByText('Nobody from lab_staff has a role yet.')).toBeVisible();

    // Each new rule begins with a role and a choice that none has yet; visitors can't be on a roster.
    const rule = (name: string) => page.getByRole('listitem', { name });
    // Other tests at the same server make couriers of chemists.
    const sql = await plainSql(baseURL!);
    const [{ all, chemists } = { all: 0n, chemists: 0n }] = await sql.query<{ all: bigint; chemists: bigint }[]>(
      "SELECT COUNT(*) `all`, COUNT(IF(kind = 'chemist', 1, NULL)) chemists FROM lab_staff",
    );
    await sql.end();
    for (const [name, rows] of [
      ['Chemist where kind is "chemist"', chemists],
      ['Courier where kind is "courier"', all - chemists],
    ] as const) {
      await page.getByRole('button', { name: '+ role by rule' }).click();
      await expect(rule(name).getByText(`Holds for ${rows} of ${all} rows of lab_staff`)).toBeVisible();
    }
    await rule('Courier where kind is "courier"').getByLabel('A member is').click();
    await expect(page.getByRole('option')).toHaveText(['Chemist', 'Courier']);
    await page.keyboard.press('Escape');
    await expectAccessible(page, 'roles by rule');

    // A rule that doesn't work is said where it is typed, and is not saved.
    await rule('Courier where kind is "courier"').getByRole('button', { name: 'As text' }).click();
    await page.getByLabel('Role rule as text').fill('email = :member.email');
    await expect(page.getByRole('alert')).toContainText("can't be used here; compare with a value. Not saved yet.");
    await page.getByLabel('Role rule as text').fill("kind = 'courier' AND lab_id = 1");
    await page.getByLabel('Role rule as text').blur();
    await expect(page.getByText(/Holds for [1-3] of 11 rows of lab_staff/)).toBeVisible();

    await page.getByRole('link', { name: 'Members', exact: true }).click();
    await page.getByRole('button', { name: 'Refresh from the rosters' }).click();
    await expect(page.getByText('11 came, 0 changed, 0 went; 0 rows make no member. No mail was sent.')).toBeVisible();
    await expect(page.getByRole('cell', { name: 'Chemist', exact: true })).toHaveCount(7);
    const roleless = await page.getByRole('cell', { name: 'no role', exact: true }).count();
    expect((await page.getByRole('cell', { name: 'Courier', exact: true }).count()) + roleless).toBe(4);
    expect(roleless).toBeGreaterThan(0);

    await page.getByRole('link', { name: /^Check/ }).click();
    const finding = page.getByRole('listitem').filter({ hasText: /members? ha(s|ve) no role/ });
    await finding.getByRole('button', { name: /^It is meant so/ }).click();
    await finding.getByLabel('Why it is meant so').fill('Only the first lab has couriers of its own.');
    await expectAccessible(page, 'accepting a finding');
    await finding.getByRole('button', { name: 'Accept it' }).click();
    await expect(finding).toHaveCount(0);
    await page.getByRole('link', { name: /^Accepted/ }).click();
    await expect(page.getByText('Meant so: Only the first lab has couriers of its own.')).toBeVisible();
    await page.getByRole('button', { name: /^Open again/ }).click();
    await expect(page.getByText('No finding is accepted.')).toBeVisible();
    await page.getByRole('link', { name: /^All findings/ }).click();
    await expect(finding).toBeVisible();
  },
);

test('Check leads from a roster in which an e-mail stands twice to a query with one row a person', async ({ page }) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/check');
  await page.getByRole('link', { name: /^Make a query with one row a person/ }).click();
  await expect(page.getByRole('heading', { name: 'A table from a query' })).toBeVisible();
  await expect(page.getByLabel('Name of the table')).toHaveValue('owners_people');
  await page.getByRole('button', { name: 'Try it' }).click();
  await expect(page.getByRole('checkbox', { name: /^email/ })).toBeChecked();
  await expect(page.getByRole('button', { name: 'Keep owners_people as a table' })).toBeEnabled();
  await expectAccessible(page, 'a query with one row a person');
  // Left, it stays away, whatever is done in the table then.
  await page.getByRole('button', { name: 'Cancel' }).click();
  await page.getByRole('button', { name: 'Rows', exact: true }).click();
  await page.getByLabel('Find in owners').fill('Brannock');
  await page.getByLabel('Find in owners').press('Enter');
  await expect(page).toHaveURL(/find=Brannock/);
  await expect(page.getByRole('grid')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'A table from a query' })).toBeHidden();
});
