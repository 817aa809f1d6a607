import { expect } from './expect';
import { expectAccessible, plainSql, signInAsBuilder, test } from './steps';

test('a rehearsal says for whom a page would be empty, and shows it as they would get it', async ({
  page,
  baseURL,
}) => {
  const sql = await plainSql(baseURL!);
  const [empty] = await sql.query<{ id: number; name: string }[]>(
    `SELECT o.id, o.name FROM owners o JOIN stone_porch.memberships r ON r.roster_table = 'owners' AND r.row_key = o.id
        AND r.holds JOIN stone_porch.portals p ON p.id = r.portal_id AND p.slug = 'alder-fen'
      WHERE NOT EXISTS (SELECT 1 FROM wells w WHERE w.owner_id = o.id) LIMIT 1`,
  );
  await sql.end();
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/check');
  await page.getByRole('link', { name: 'Rehearsal' }).click();
  await page.getByRole('button', { name: 'Rehearse', exact: true }).click();
  const wells = page.getByRole('row').filter({ has: page.getByRole('rowheader', { name: 'My wells', exact: true }) });
  // As everybody, one after the other: as long as that takes.
  await expect(wells).toBeVisible({ timeout: 180_000 });
  await expectAccessible(page, 'a rehearsal', 'all', 'whole');
  await wells.getByRole('button').nth(1).click();
  await page.getByRole('button', { name: empty!.name, exact: true }).click();
  await expect(
    page.getByText('There is nothing here yet. When wells are entered for you', { exact: false }),
  ).toBeVisible();
});
