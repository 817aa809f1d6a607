import excel from 'exceljs';
import { readFile } from 'node:fs/promises';
import { expect } from './expect';
import { addSection, choose, expectAccessible, plainSql, seeAs, signIn, signInAsBuilder, test } from './steps';

test('the desk adds an advisory, ticks some, deletes them and takes it back; what may be done is offered', async ({
  page,
  baseURL,
}) => {
  const sql = await plainSql(baseURL!);
  await signIn(page, 'odile.fennimore@example.org', '/p/alder-fen/notices');
  await page.getByRole('link', { name: 'Add', exact: true }).click();
  await page.getByRole('button', { name: 'Add it' }).click();
  // What is wrong stands at its field, and what was typed stays.
  await expect(page.getByLabel('Title')).toHaveAttribute('aria-invalid', 'true');
  await page.getByLabel('Title').fill('Pump house closed');
  await page.getByLabel('Parish').fill('Saltby');
  await page.getByLabel('Text').fill('Until the end of the month.');
  await page.getByRole('textbox', { name: 'Valid until' }).fill('31/12/2027');
  await choose(page.getByLabel('Published'), 'Yes');
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'Added.' })).toBeVisible();
  // It opens, and stands in the list.
  await expect(page.getByRole('region', { name: 'Record', exact: true }).getByLabel('Title')).toHaveValue(
    'Pump house closed',
  );
  const row = page.getByRole('row', { name: /Pump house closed/ });
  await expect(row).toBeVisible();
  const count = () =>
    sql.query<{ n: bigint }[]>("SELECT COUNT(*) n FROM alder_fen.advisories WHERE title LIKE 'Pump%'");
  expect(Number((await count())[0]!.n)).toBe(1);
  await row.getByRole('checkbox').check();
  await expectAccessible(page, 'ticked records');
  await page.getByRole('button', { name: 'Delete 1' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Delete 1' }).click();
  await expect(page.getByRole('status').filter({ hasText: '1 record deleted.' })).toBeVisible();
  await expect(row).toHaveCount(0);
  expect(Number((await count())[0]!.n)).toBe(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row).toBeVisible();
  expect(Number((await count())[0]!.n)).toBe(1);
  // By the record itself too.
  await row.getByRole('link').first().click();
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await page.getByRole('button', { name: 'Delete it' }).click();
  await expect(row).toHaveCount(0);
  // Nothing of it is offered to those who may only read.
  await page.goto('/p/alder-fen/requests');
  await expect(page.getByRole('heading', { name: 'Requests' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Add', exact: true })).toHaveCount(0);
  await sql.end();
});

test('a sampler closes a visit on a phone: the move asks for the seal, and cannot be made twice', async ({
  page,
  baseURL,
}) => {
  const sql = await plainSql(baseURL!);
  await page.setViewportSize({ width: 390, height: 844 });
  const [visit] = await sql.query<{ id: number }[]>(
    `SELECT v.id FROM alder_fen.visits v JOIN alder_fen.samplers s ON s.id = v.sampler_id
      WHERE s.email = 'mara.lindqvist@example.org' AND v.state = 'planned' AND v.seal_number IS NULL LIMIT 1`,
  );
  await signIn(page, 'mara.lindqvist@example.org', `/p/alder-fen/my-visits/visits/${visit!.id}`);
  await page.getByRole('button', { name: 'Sampled …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Sampled' }).click();
  await expect(dialog.getByLabel('Seal number')).toHaveAttribute('aria-invalid', 'true');
  await expectAccessible(page, 'what a move asks for');
  await dialog.getByLabel('Seal number').fill('AF-77');
  await dialog.getByRole('button', { name: 'Sampled' }).click();
  await expect(page.getByRole('button', { name: 'Handed to the lab' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Sampled …' })).toHaveCount(0);
  const [now] = await sql.query<{ state: string; seal_number: string }[]>(
    `SELECT state, seal_number FROM alder_fen.visits WHERE id = ${visit!.id}`,
  );
  expect([now!.state, now!.seal_number]).toEqual(['sampled', 'AF-77']);
  await sql.end();
});

test('numbers go with the list beside them, and lead to their records; a list is taken out', async ({
  page,
  baseURL,
}) => {
  const sql = await plainSql(baseURL!);
  await signIn(page, 'philippa.crane@example.org', '/p/alder-fen/fees');
  const open = page.getByRole('region', { name: 'Still to be paid' });
  const sum = async (where: string) => {
    const [row] = await sql.query<{ n: string }[]>(
      `SELECT SUM(fee) n FROM alder_fen.visits WHERE paid = 0 AND ${where}`,
    );
    return Number(row!.n).toLocaleString('en-GB', { minimumFractionDigits: 2 });
  };
  await expect(open).toContainText(await sum('TRUE'));
  const chart = page.getByRole('figure', { name: 'Fees by month' });
  await chart.getByText('The numbers as a table').click();
  await chart
    .getByRole('row', { name: /^Mar 2025/ })
    .getByRole('button')
    .first()
    .click();
  const month = "planned_for >= '2025-03-01' AND planned_for < '2025-04-01'";
  const [{ n }] = (await sql.query<{ n: bigint }[]>(
    `SELECT COUNT(*) n FROM alder_fen.visits WHERE ${month} AND paid = 0`,
  )) as [{ n: bigint }];
  await expect(page.getByText(`25 of ${n} visits`)).toBeVisible();
  await expect(open).toContainText(await sum(month));
  // Another changes a fee; what stands here follows.
  await sql.query(`UPDATE alder_fen.visits SET fee = fee + 1000 WHERE ${month} AND paid = 0 LIMIT 1`);
  await page.reload();
  await expect(open).toContainText(await sum(month));
  await page.getByRole('button', { name: 'Take out' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'For a spreadsheet (CSV)' }).click(),
  ]);
  const file = await readFile(await download.path(), 'utf8');
  expect(file.trim().split('\r\n')).toHaveLength(Number(n) + 1);
  await page.getByRole('button', { name: 'Take out' }).click();
  const [written] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'As a spreadsheet (XLSX)' }).click(),
  ]);
  await expect(page.getByText('The spreadsheet is with your downloads.')).toBeVisible();
  const book = new excel.Workbook();
  await book.xlsx.readFile(await written.path());
  // Called as on the page.
  const [sheet] = book.worksheets;
  expect([written.suggestedFilename(), sheet!.name, sheet!.rowCount]).toEqual(['Fees.xlsx', 'Fees', Number(n) + 1]);
  expect(sheet!.getRow(1).values).toContain('Fee');
  await page.goto('/p/alder-fen/fees');
  await expect(chart).toBeVisible();
  await expectAccessible(page, 'figures and a chart');
  await sql.end();
});

test('what belongs to a record stands below it and is added there; a list in groups, and from one to the next', async ({
  page,
  baseURL,
}) => {
  const sql = await plainSql(baseURL!);
  await signIn(page, 'ines.brannock@example.org', '/p/alder-fen/my-wells/wells/231');
  const count = async () =>
    Number((await sql.query<{ n: bigint }[]>('SELECT COUNT(*) n FROM visits WHERE well_id = 231'))[0]!.n);
  const visits = page.getByRole('region', { name: 'Visits', exact: true });
  await expect(visits.getByRole('heading')).toHaveText(`Visits${await count()}`);
  // It opens where visits are listed.
  await visits.getByRole('link').first().click();
  await expect(page).toHaveURL(/\/visits\/visits\/\d+$/);
  const first = page.url();
  await page.getByRole('link', { name: 'The next one' }).click();
  await expect(page).not.toHaveURL(first);
  await page.getByRole('link', { name: 'The one before' }).click();
  await expect(page).toHaveURL(first);
  await expectAccessible(page, 'a record with what belongs to it');

  await page.context().clearCookies();
  await signIn(page, 'mara.lindqvist@example.org', '/p/alder-fen/my-visits');
  const [newest] = await sql.query<{ day: string }[]>(
    `SELECT DATE_FORMAT(v.planned_for, '%W, %e %M %Y') day FROM visits v JOIN samplers s ON s.id = v.sampler_id
      WHERE s.email = 'mara.lindqvist@example.org' ORDER BY v.planned_for DESC LIMIT 1`,
  );
  await expect(page.getByRole('rowheader').first()).toHaveText(newest!.day);
  await sql.end();
});

test('cards are laid on a page and seen as a member gets them; one opens in place', async ({ page }) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/pages');
  await seeAs(page, 'Ines Brannock');
  await page.getByRole('button', { name: '+ page' }).click();
  await expect(page.getByRole('heading', { name: 'New page' })).toBeVisible();
  await page.getByRole('checkbox', { name: 'Well owner' }).click();
  await expect(page.getByRole('checkbox', { name: 'Well owner' })).toBeChecked();
  await addSection(page, 'Cards', 'Wells');
  await expect(page.getByRole('heading', { name: 'Cards of wells' })).toBeVisible();
  const seen = page.getByRole('complementary', { name: 'Seen by' });
  await expect(seen.getByRole('listitem').filter({ hasText: 'AF-0231' })).toBeVisible();
  // Each with the newest picture that hangs on its record.
  await choose(page.getByRole('combobox', { name: 'Picture' }), 'the newest that hangs on the record');
  const pictures = seen.getByRole('listitem').locator('img');
  await expect(pictures).toHaveCount(3);
  for (const picture of await pictures.all())
    await expect.poll(() => picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(480);
  await addSection(page, 'One record', 'Owners');
  await expect(seen.getByText('9 Church Walk, Harrow End').first()).toBeVisible();
  await expectAccessible(page, 'a page of cards and one record on the bench', 'all', 'whole');
  // As wide as a phone and a tablet; a section leads to where it is set.
  await seen.getByRole('button', { name: 'phone' }).click();
  const larger = page.getByRole('dialog', { name: 'As Ines Brannock gets it' });
  const first = larger.getByRole('listitem').filter({ hasText: 'AF-0231' });
  const width = async () => (await larger.getByTestId('device').boundingBox())!.width;
  await expect(first).toBeVisible();
  expect(await width()).toBe(390);
  await expectAccessible(page, 'a page on a phone in Seen by', 'all', 'whole');
  await larger.getByRole('button', { name: 'tablet' }).click();
  expect(await width()).toBe(820);
  await larger.getByRole('button', { name: 'Change this section' }).first().focus();
  await page.keyboard.press('Enter');
  await expect(larger).toBeHidden();
  await expect(page.getByRole('heading', { name: 'Cards of wells' })).toBeFocused();
  await seen.getByRole('link', { name: /^AF-0231 Owner/ }).click();
  await expect(seen.getByRole('heading', { name: 'AF-0231' })).toBeVisible();
});

test('a list has tabs with counts and is arranged by whoever looks; a page leads on by buttons', async ({
  page,
  baseURL,
}) => {
  const sql = await plainSql(baseURL!);
  const count = async (where: string) =>
    Number((await sql.query<{ n: bigint }[]>(`SELECT COUNT(*) n FROM visits WHERE ${where}`))[0]!.n);
  const unpaid = await count("state = 'reported' AND paid = 0");
  await signIn(page, 'odile.fennimore@example.org', '/p/alder-fen/all-visits');
  const tabs = page.getByRole('navigation', { name: 'Views of visits' });
  await tabs.getByRole('link', { name: `Reported, not paid ${unpaid}` }).click();
  await expect(page.getByText(`25 of ${unpaid} visits`)).toBeVisible();
  await page.getByRole('button', { name: 'Arrange' }).click();
  await page.getByRole('checkbox', { name: 'Access note' }).click();
  await page.getByRole('checkbox', { name: 'Owner name' }).click();
  await choose(page.getByLabel('Sorted by'), 'Fee');
  await page.getByRole('button', { name: 'Then by' }).click();
  await choose(page.getByLabel('Then by'), 'Sampler name');
  await page.keyboard.press('Escape');
  const columns = ['Well code', 'Planned for', 'Sampler name', 'State', 'Fee', 'Paid', 'Access note'];
  await expect(page.getByRole('columnheader')).toHaveText(columns);
  await expect(page.getByRole('columnheader', { name: 'Fee' })).toHaveAttribute('aria-sort', 'descending');
  const rows = await sql.query<{ code: string }[]>(
    `SELECT w.code FROM visits v JOIN wells w ON w.id = v.well_id LEFT JOIN samplers s ON s.id = v.sampler_id
      WHERE v.state = 'reported' AND v.paid = 0 ORDER BY v.fee DESC, s.name, v.id LIMIT 25`,
  );
  const shown = page.getByRole('row').getByRole('link', { name: /^AF-/ });
  await expect(shown).toHaveText(rows.map(({ code }) => code));
  // All of it is in the address.
  await page.reload();
  await expect(shown).toHaveText(rows.map(({ code }) => code));
  await expectAccessible(page, 'a list with tabs');
  // It stands as it was left where the address says nothing else, until it is put back.
  const wells = async () => {
    await page.goto('/p/alder-fen/all-wells');
    await expect(page.getByText('25 of 520 wells')).toBeVisible();
  };
  await wells();
  await page.getByRole('button', { name: 'Parish', exact: true }).click();
  await page.getByRole('button', { name: 'Arrange' }).click();
  await page.getByRole('checkbox', { name: 'Address' }).click();
  await expect(page.getByRole('columnheader', { name: 'Address' })).toBeHidden();
  await wells();
  await expect(page.getByRole('columnheader')).toHaveText(['Code', 'Owner', 'Parish', 'State']);
  await expect(page.getByRole('columnheader', { name: 'Parish' })).toHaveAttribute('aria-sort', 'ascending');
  await page.getByRole('button', { name: 'Arrange' }).click();
  await page.getByRole('button', { name: 'As it came' }).click();
  await wells();
  await expect(page.getByRole('columnheader')).toHaveText(['Code', 'Owner', 'Address', 'Parish', 'State']);
  await page.goto('/p/alder-fen/all-visits');
  await tabs.getByRole('link', { name: /^To plan/ }).click();
  await expect(page.getByText(`${await count("state = 'asked'")} in all`)).toBeVisible();
  // An address from before may narrow by a column that is gone; from there the whole list is one press away.
  await page.goto('/p/alder-fen/all-visits?visits.filter=gone_since%20%3D%203');
  await expect(page.getByText("What this is narrowed or sorted by isn't here any more.")).toBeVisible();
  await page.getByRole('button', { name: 'Show the whole list' }).click();
  await expect(shown).toHaveCount(25);

  await page.context().clearCookies();
  await signIn(page, 'ines.brannock@example.org', '/p/alder-fen/my-wells');
  let comes = () => {};
  const chart = new Promise<void>((resolve) => (comes = resolve));
  await page.route(/\/my-results\/[^/]+\/chart/, async (route) => {
    await chart;
    await route.continue();
  });
  await page.getByRole('link', { name: /^See what was found/ }).click();
  await expect(page.getByRole('heading', { name: 'Results', level: 1 })).toBeVisible();
  const [{ above }] = (await sql.query<{ above: bigint }[]>(
    `SELECT COUNT(*) above FROM results r JOIN samples s ON s.id = r.sample_id JOIN visits v ON v.id = s.visit_id
      JOIN wells w ON w.id = v.well_id JOIN owners o ON o.id = w.owner_id JOIN analytes a ON a.code = r.analyte_code
      WHERE o.email = 'ines.brannock@example.org' AND r.state = 'approved' AND r.value > a.limit_value`,
  )) as [{ above: bigint }];
  // A chart that comes late moves nothing from under the pointer.
  const tab = page.getByRole('link', { name: `Above the limit ${above}` });
  const height = async () => (await tab.boundingBox())!.y;
  const before = await height();
  comes();
  await expect(page.getByRole('application')).toBeVisible();
  expect(Math.abs((await height()) - before)).toBeLessThan(3);
  await tab.click();
  await expect(page.getByRole('cell').getByText('above the limit')).toHaveCount(Number(above));
  await expectAccessible(page, 'a list with marks');
  await sql.end();
});

test('tabs, buttons and an outside page are made on the bench; an audience is narrowed by what is known', async ({
  page,
}) => {
  await signInAsBuilder(page);
  await page.goto('/build/alder-fen/pages');
  await seeAs(page, 'Ines Brannock');
  await page.getByRole('button', { name: '+ page' }).click();
  await expect(page.getByRole('heading', { name: 'New page' })).toBeVisible();
  await page.getByRole('checkbox', { name: 'Well owner' }).click();
  await addSection(page, 'List', 'Wells');
  await page.getByRole('button', { name: '+ view' }).click();
  const view = page.getByRole('region', { name: 'New view' });
  await view.getByLabel('Name of the view').fill('Closed');
  await view.getByLabel('Name of the view').blur();
  const closed = page.getByRole('region', { name: 'Closed', exact: true });
  await closed.getByRole('button', { name: 'As text' }).click();
  await closed.getByLabel('Filter of Closed as text').fill("state = 'closed'");
  await closed.getByLabel('Filter of Closed as text').blur();
  const seen = page.getByRole('complementary', { name: 'Seen by' });
  const tabs = seen.getByRole('navigation', { name: 'Views of wells' });
  await expect(tabs.getByRole('link')).toHaveText(['All3', 'Closed1']);
  await tabs.getByRole('link', { name: 'Closed 1' }).click();
  await expect(seen.getByText('1 in all')).toBeVisible();

  await addSection(page, 'Buttons');
  await page.getByRole('button', { name: '+ button' }).click();
  await page.getByLabel('It says').fill('Read on');
  await page.getByLabel('It says').blur();
  await choose(page.getByLabel('A press'), 'an address elsewhere');
  const address = page.getByRole('region', { name: 'Button Read on' }).getByLabel('Address');
  await address.fill('javascript:alert(1)');
  await address.blur();
  await expect(page.getByText('Write a whole address')).toBeVisible();
  await address.fill('https://wells.example.org/read');
  await address.blur();
  await expect(seen.getByRole('link', { name: /^Read on/ })).toHaveAttribute('href', 'https://wells.example.org/read');

  await addSection(page, 'Outside page');
  await page.getByLabel('Address of the page').fill('https://maps.example.org/fen');
  await page.getByLabel('Address of the page').blur();
  await page.getByLabel('What is seen there').fill('The fen from above');
  await page.getByLabel('What is seen there').blur();
  const frame = seen.getByTitle('The fen from above');
  await expect(frame).toHaveAttribute('src', 'https://maps.example.org/fen');
  await expect(frame).toHaveAttribute('sandbox', /allow-scripts/);

  const buttons = page.getByRole('region', { name: 'Buttons', exact: true });
  await buttons.getByRole('button', { name: 'Only those of whom something holds …' }).click();
  const where = buttons.getByLabel('Who gets Buttons as text');
  await where.fill(":member.owners.parish = 'Nowhere");
  await where.blur();
  await expect(buttons.getByRole('alert')).toBeVisible();
  await where.fill(":member.owners.parish = 'Nowhere'");
  await where.blur();
  await expect(seen.getByRole('link', { name: /^Read on/ })).toHaveCount(0);
  await expectAccessible(page, 'tabs, buttons and an outside page on the bench', 'all', 'whole');
});

test('all that a list finds are ticked, deleted together, and brought back', async ({ page, baseURL }) => {
  const sql = await plainSql(baseURL!);
  await sql.query(
    `INSERT INTO alder_fen.advisories (parish, title, text, valid_until, published)
      SELECT 'Harrow End', CONCAT('Trial notice ', seq), 'Only a trial.', '2030-01-01', FALSE FROM seq_1_to_60`,
  );
  const left = async () =>
    Number(
      (await sql.query<{ n: bigint }[]>("SELECT COUNT(*) n FROM alder_fen.advisories WHERE title LIKE 'Trial %'"))[0]!
        .n,
    );
  await signIn(page, 'odile.fennimore@example.org', '/p/alder-fen/notices');
  await page.getByRole('searchbox').fill('Trial notice');
  await page.keyboard.press('Enter');
  await expect(page.getByText('25 of 60 advisories')).toBeVisible();
  await page.getByRole('checkbox', { name: 'Choose all on this page' }).click();
  await expect(page.getByText('25 ticked')).toBeVisible();
  await page.getByRole('button', { name: 'Tick all 60 that are found' }).click();
  await expect(page.getByText('60 ticked')).toBeVisible();
  await page.getByRole('button', { name: 'Delete 60' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Delete 60' }).click();
  await expect(page.getByText('60 records deleted.')).toBeVisible();
  expect(await left()).toBe(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/^(Undone|Made again)/)).toBeVisible();
  expect(await left()).toBe(60);
  await sql.query("DELETE FROM alder_fen.advisories WHERE title LIKE 'Trial %'");
  await sql.end();
});
