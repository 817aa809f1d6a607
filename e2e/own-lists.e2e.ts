import type { Page } from '@playwright/test';
import { expect } from './expect';
import { choose, expectAccessible, plainSql, signIn, test } from './steps';

const head = (page: Page, name: string) => page.getByRole('columnheader', { name });
const widthOf = async (page: Page, name: string) => Math.round((await head(page, name).boundingBox())!.width);

test('columns are sized by drawing their edge and by presses, and stand so the next time', async ({ page }) => {
  await signIn(page, 'odile.fennimore@example.org', '/p/alder-fen/all-visits');
  // As wide as its records and its letters make it.
  await expect(page.getByText(/^25 of [\d,]+ visits/)).toBeVisible();
  await expect(page.getByRole('button', { name: /^Change Fee of / })).toHaveCount(25);
  await page.evaluate(() => document.fonts.ready.then(() => null));
  const before = { state: await widthOf(page, 'State'), fee: await widthOf(page, 'Fee') };
  const edge = (await head(page, 'State').locator('[data-edge]').boundingBox())!;
  await page.mouse.move(edge.x + 4, edge.y + 8);
  await page.mouse.down();
  await page.mouse.move(edge.x + 64, edge.y + 8, { steps: 5 });
  await expect.poll(() => widthOf(page, 'State')).toBe(before.state + 60);
  await page.mouse.up();
  // The others stay as they were, and nothing is sorted by it.
  expect(await widthOf(page, 'Fee')).toBe(before.fee);
  await expect(page).toHaveURL(/widths=/);
  expect(new URL(page.url()).search).not.toContain('sort');

  await page.getByRole('button', { name: 'Arrange' }).click();
  await page.getByRole('button', { name: 'State narrower' }).click();
  await expect.poll(() => widthOf(page, 'State')).toBe(before.state + 36);
  await expectAccessible(page, 'columns that are sized');
  await page.goto('/p/alder-fen/all-visits');
  await expect.poll(() => widthOf(page, 'State')).toBe(before.state + 36);
  await page.getByRole('button', { name: 'Arrange' }).click();
  await page.getByRole('button', { name: 'As it came' }).click();
  await expect.poll(() => widthOf(page, 'State')).toBe(before.state);
  // What is odd in an address changes nothing.
  await page.goto('/p/alder-fen/all-visits?visits.widths=state:-3,nothing,fee:1e99,:7&visits.chart=rings');
  await expect(page.getByText("This list can't be drawn so any more.")).toBeVisible();
  await expect(head(page, 'Fee')).toBeVisible();
});

test('a view with a chart is kept and shared with a role in 13 interactions; its people open it', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page, 'odile.fennimore@example.org', '/p/alder-fen/all-visits?visits.view=unpaid');
  await page.getByRole('button', { name: 'Filter' }).click();
  await choose(page.getByLabel('Column', { exact: true }), 'Fee');
  await page.getByLabel('from').fill('80');
  await page.getByRole('button', { name: 'Narrow the list' }).click();
  await expect(page.getByText(/^Fee is at least 80/)).toBeVisible();
  const sql = await plainSql(baseURL!);
  const [{ n }] = (await sql.query<{ n: bigint }[]>(
    "SELECT COUNT(*) n FROM visits WHERE state = 'reported' AND paid = 0 AND fee >= 80",
  )) as [{ n: bigint }];
  const [largest] = await sql.query<{ called: string; n: bigint }[]>(
    `SELECT CONCAT(DATE_FORMAT(planned_for, '%b %Y')) called, COUNT(*) n FROM visits
      WHERE state = 'reported' AND paid = 0 AND fee >= 80 GROUP BY 1 ORDER BY 2 DESC LIMIT 1`,
  );
  await sql.end();
  // Five so far: the filter, its column, the choice of it, the number, the press.
  await page.getByRole('button', { name: 'Arrange' }).click();
  await choose(page.getByLabel('Drawn by'), 'Planned for');
  await expect(page.getByRole('figure', { name: 'Number of visits by planned for' })).toBeVisible();
  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByRole('menuitem', { name: 'Keep this view …' }).click();
  await page.getByLabel('Name').fill('Dear and unpaid');
  await page.getByRole('checkbox', { name: 'Programme desk' }).click();
  await expectAccessible(page, 'keeping a view');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText('The view Dear and unpaid is kept and shared.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Dear and unpaid' })).toBeVisible();

  const context = await browser.newContext({ baseURL: baseURL! });
  const again = await context.newPage();
  await signIn(again, 'odile.fennimore@example.org', '/p/alder-fen/all-visits');
  await again.getByRole('button', { name: 'Views' }).click();
  await again.getByRole('menuitem', { name: 'Dear and unpaid' }).click();
  await expect(again.getByText(/^Fee is at least 80/)).toBeVisible();
  await expect(again.getByText(`25 of ${n} visits`)).toBeVisible();
  const chart = again.getByRole('figure', { name: 'Number of visits by planned for' });
  await chart.getByText('The numbers as a table').click();
  await expect(chart.getByRole('row', { name: new RegExp(`^${largest!.called} ${largest!.n}\\b`) })).toBeVisible();
  await again.getByRole('button', { name: 'Dear and unpaid' }).click();
  await again.getByRole('menuitem', { name: 'Take out …' }).hover();
  const named = again.getByRole('menuitem', { name: 'Dear and unpaid' });
  await expect(named).toHaveCount(2);
  await named.last().click();
  await expect(again.getByText('The view Dear and unpaid is taken out.')).toBeVisible();
  await context.close();
});
