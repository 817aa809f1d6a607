import { expect } from './expect';
import { choose, inAnyCase, bareFen, cell, expectAccessible, seeAs, seenCount, signInAsBuilder, test } from './steps';

test('classic mistakes are named by Check, and its mends mend them, as Seen by shows', async ({ page }) => {
  await signInAsBuilder(page);
  await bareFen(page, 'fen-mistakes');
  const headers = { 'x-stone-porch': 'test' };
  const definition = (await (await page.request.get('/api/builder/portals/fen-mistakes/definition')).json()) as {
    access: unknown;
  };
  definition.access = {
    // The filter left out; the maker's own records forgotten; the tenant column editable.
    wells: {
      well_owner: { see: { where: 'every row', columns: ['code', 'owner_id'] } },
      sampler: { see: { where: 'every row', columns: ['code'] } },
    },
    visits: {
      sampler: {
        see: {
          where: {
            kind: 'compare',
            left: { kind: 'column', path: ['sampler_id'] },
            comparison: '=',
            right: { kind: 'member', fact: ['samplers', 'id'] },
          },
          columns: ['well_id', 'state', 'sampler_id'],
        },
        create: { columns: ['well_id', 'asked_on', 'state'] },
        edit: { where: 'as seen', columns: ['sampler_id'] },
      },
    },
  };
  expect(
    (await page.request.put('/api/builder/portals/fen-mistakes/definition', { headers, data: definition })).status(),
  ).toBe(200);

  await page.goto('/build/fen-mistakes/access/wells');
  await seeAs(page, 'Ines Brannock');
  await expect(seenCount(page)).toContainText('520 of 520');
  await page.goto('/build/fen-mistakes/check');
  const finding = (words: string) => page.getByRole('listitem').filter({ hasText: words });
  await expect(finding('Well owner reads every row of wells')).toBeVisible();
  await finding('Well owner reads every row of wells')
    .getByRole('button', { name: /^Only where owner is the member's row in owners/ })
    .click();
  await expect(finding('Well owner reads every row of wells')).toHaveCount(0);
  await finding("Sampler can't make a record of visits")
    .getByRole('button', { name: /^Stamp sampler_id when one is made/ })
    .click();
  await expect(finding("Sampler can't make a record of visits")).toHaveCount(0);
  await finding('Sampler may change visits.sampler_id, by which their own records are told')
    .getByRole('button', { name: /^Show it only/ })
    .click();
  await expect(finding('Sampler may change visits.sampler_id')).toHaveCount(0);
  await page.goto('/build/fen-mistakes/access/wells');
  await expect(seenCount(page)).toContainText('3 of 520');

  // A new record is tried as the sampler: run, told, taken back; and a refused one says why.
  await page.goto('/build/fen-mistakes/access/visits');
  await seeAs(page, 'Mara Lindqvist');
  const before = await seenCount(page).innerText();
  await page.getByRole('button', { name: 'Try a new record' }).click();
  const attempt = page.getByRole('form', { name: 'Try a new record' });
  for (const [column, value] of [
    ['Well', '231'],
    ['Asked on', '2026-11-20'],
  ] as const) {
    await choose(attempt.getByLabel('Set a column'), column);
    const input = attempt.locator('input').and(attempt.getByLabel(column, { exact: true }));
    await input.fill(value);
    await input.press('Tab');
  }
  await choose(attempt.getByLabel('Set a column'), 'state');
  await choose(attempt.getByRole('combobox', { name: 'state' }), 'asked');
  await attempt.getByRole('button', { name: 'Try it as Mara Lindqvist' }).click();
  await expect(attempt.getByText('It would be made.')).toBeVisible();
  await choose(attempt.getByLabel('Set a column'), 'fee');
  await attempt.getByRole('textbox', { name: 'fee' }).fill('1');
  await attempt.getByRole('button', { name: 'Try it as Mara Lindqvist' }).click();
  await expect(attempt.getByText('Fee is not theirs to fill')).toBeVisible();
  await expect(seenCount(page)).toHaveText(before);

  // All of it is undone, step by step.
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: /^Undo: Mend/ }).click();
  await page.goto('/build/fen-mistakes/access/wells');
  await seeAs(page, 'Ines Brannock');
  await expect(seenCount(page)).toContainText('520 of 520');
});

test(
  'the grid goes by keyboard; rules of all tables, promises and who sees what stand beside it; two builders see ' +
    'each other',
  async ({ page, browser }) => {
    await signInAsBuilder(page);
    await bareFen(page, 'fen-keys');
    await page.goto('/build/fen-keys/access');
    await expectAccessible(page, 'all tables');

    // By keyboard alone: open a table, set its rows, take a block, lay it, copy it to the next role.
    await page.getByRole('rowheader', { name: 'advisories' }).focus();
    await page.keyboard.press('ArrowRight');
    await expect(page.getByRole('rowheader', { name: 'Parish' }).first()).toBeVisible();
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('Enter');
    await choose(page.getByLabel('Rows that Well owner sees'), 'every row');
    await cell(page, /^advisories for Well owner: see/i).focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowDown');
    for (let i = 0; i < 2; i++) await page.keyboard.press('Shift+ArrowDown');
    await expect(page.getByRole('group', { name: 'Selected stones' })).toContainText('3 stones');
    await page.keyboard.press('2');
    await expect(cell(page, 'text for Well owner: shown')).toBeVisible();
    await page.keyboard.press('1');
    await expect(cell(page, 'text for Well owner: masked')).toBeVisible();
    await page.keyboard.press('Control+c');
    await page.keyboard.press('Control+ArrowUp');
    await page.getByRole('button', { name: 'Role Well owner' }).click();
    await page.getByRole('menuitem', { name: /Give its rules on Advisories to/ }).hover();
    await page.getByRole('menuitem', { name: 'Sampler', exact: true }).click();
    await expect(cell(page, 'text for Sampler: masked')).toBeVisible();
    await choose(page.getByLabel('Show columns'), 'masked for someone');
    await expect(page.getByRole('rowheader', { name: 'Id', exact: true })).toHaveCount(0);
    await choose(page.getByLabel('Show columns'), 'all columns');
    await page.getByLabel('Find a table or column').fill('iban');
    await expect(cell(page, 'iban for Sampler: hidden')).toBeVisible();
    await expect(page.getByRole('rowheader', { name: 'visits' })).toHaveCount(0);

    // A promise: kept at first, broken by a change, which a second builder makes; the first sees it within seconds.
    await page.getByRole('link', { name: /^Promises/ }).click();
    await choose(page.getByLabel('Of which table'), 'owners');
    await page.getByRole('button', { name: 'Add this promise' }).click();
    await choose(page.getByLabel('Who', { exact: true }), 'Sampler');
    await choose(page.getByLabel('Column', { exact: true }), 'iban');
    await expect(page.getByText('Sampler may never see Iban of Owners', { exact: true }).first()).toBeVisible();
    await expect(page.getByText('Kept, whatever the data')).toBeVisible();
    await expectAccessible(page, 'promises');
    const second = await (await browser.newContext()).newPage();
    await signInAsBuilder(second);
    await second.goto('/build/fen-keys/access/owners?role=sampler');
    await choose(second.getByLabel('Rows that Sampler sees'), 'every row');
    await cell(second, /^iban for Sampler:/i).click();
    await second.keyboard.press('2');
    await expect(cell(second, 'iban for Sampler: shown')).toBeVisible();
    await expect(page.getByText(/^Broken: /)).toBeVisible();
    await expect(page.getByRole('navigation', { name: 'Stages' }).getByText('1 promise broken').first()).toBeVisible();
    await expect(page.getByRole('button', { name: 'Undo: Make owners.iban shown for Sampler' })).toBeVisible();
    await second.close();
    await page.getByRole('link', { name: 'Publish v1…' }).click();
    await page.getByRole('button', { name: 'Publish version 1', exact: true }).click();
    await expect(page.getByText('A promise is broken, so nothing was published.')).toBeVisible();
    await expect(
      page
        .getByRole('form', { name: 'Publish all the same' })
        .getByRole('link', { name: 'Sampler may never see Iban of Owners' }),
    ).toBeVisible();
    await page.getByLabel('Why it shall be published all the same').fill('A trial');
    await page.getByRole('button', { name: 'Publish version 1 all the same' }).click();
    await expect(page.getByText('Version 1 is live')).toBeVisible();
    await page.getByRole('link', { name: 'Audit log' }).click();
    await expect(page.getByText(/despite promise-1: A trial/)).toBeVisible();

    await page.goto('/build/fen-keys/access/~who');
    await choose(page.getByLabel('Table'), 'owners');
    await choose(page.getByLabel('Column', { exact: true }), 'iban');
    await expect(page.getByText('14 people: see it whole')).toBeVisible();

    // The lifecycle as a drawing and a table.
    await page.goto('/build/fen-keys/access/~lifecycles');
    await choose(page.getByLabel('Add a lifecycle of'), 'visits');
    // What comes moves what stands below it; and a tick stands once the draft has it.
    await expect(page.getByRole('img', { name: /^Moves\. Planned: from asked to planned/ })).toBeVisible();
    for (const [group, name] of [
      ['by', 'Sampler'],
      ['filled in by then', 'Planned for'],
    ] as const) {
      const tick = page
        .getByRole('listitem', { name: 'Move Planned' })
        .getByRole('group', { name: group, exact: true })
        .getByRole('checkbox', { name, exact: true });
      await tick.click();
      await expect(tick).toBeChecked();
    }
    await expectAccessible(page, 'a lifecycle');
  },
);

test(
  'laying stones takes no mask off; side by side stays whole when the table is changed, and its two persons stay ' +
    'in the address',
  async ({ page }) => {
    await signInAsBuilder(page);
    await page.goto('/build/alder-fen/access/owners');
    await seeAs(page, 'Mara Lindqvist');
    const stone = cell(page, /^tax number for Well owner: masked/i);
    await stone.click();
    await page.keyboard.press('3');
    await expect(page.getByText(/One column stays masked: owners\.tax_number for Well owner \(/)).toBeVisible();
    await expect(stone).toBeVisible();
    await page.getByRole('button', { name: 'Except Well owner from the masks on owners.tax_number' }).click();
    await expect(cell(page, /^tax number for Well owner: (shown|editable)/i)).toBeVisible();
    await page.getByRole('button', { name: /^Undo: / }).click();
    await expect(stone).toBeVisible();

    await page.getByRole('link', { name: /^Side by side/ }).click();
    await page.getByRole('button', { name: 'Second person' }).click();
    await page.getByRole('searchbox', { name: 'Find a member' }).fill('Brannock');
    await page.getByRole('button', { name: /^Ines Brannock/ }).click();
    for (const table of ['wells', 'visits', 'owners', 'labs', 'wells']) {
      await page.getByLabel('Table or page').click();
      await page
        .getByRole('group', { name: 'the table' })
        .getByRole('option', { name: inAnyCase(table) })
        .click();
      await expect(page.getByTestId('pair-counts').or(page.getByText('There is no such row.')).first()).toBeVisible();
    }
    await page.reload();
    await expect(page.getByRole('button', { name: 'Second person: Ines Brannock' })).toBeVisible();
    await expect(page.getByTestId('pair-counts')).toContainText('Ines Brannock');
  },
);

test('a filter that is kept under a name changes wherever it is used', async ({ page }) => {
  await signInAsBuilder(page);
  await bareFen(page, 'fen-filters');
  const asText = async (what: string, text: string) => {
    await page.getByRole('button', { name: 'As text' }).click();
    await page.getByLabel(what).fill(text);
    await page.getByLabel(what).press('Control+Enter');
    await page.getByRole('button', { name: 'As sentence' }).click();
  };
  await page.goto('/build/fen-filters/access/~filters');
  await choose(page.getByLabel('Add a filter of'), 'visits');
  await page.getByLabel('Name', { exact: true }).fill('Under way');
  await page.getByLabel('Name', { exact: true }).press('Tab');
  await asText('Filter Under way as text', "state = 'planned'");
  await expect(
    page.getByRole('button', { name: /^Visits: Under way where state is "planned" · used in 0/ }),
  ).toBeVisible();

  await page.goto('/build/fen-filters/access/visits?role=sampler');
  await choose(page.getByLabel('Rows that Sampler sees'), 'rows where …');
  await choose(page.getByLabel('A filter that is kept'), 'Under way');
  await expect(page.getByText('where state is "planned"')).toBeVisible();
  await expectAccessible(page, 'a row filter that is kept under a name');
  await page.getByRole('link', { name: 'change it wherever it is used' }).click();
  await asText('Filter Under way as text', "state = 'planned' OR state = 'sampled'");
  await expect(page.getByRole('button', { name: /used in 1 place$/ })).toBeVisible();
  await page.goto('/build/fen-filters/access/visits?role=sampler');
  await expect(page.getByText('where state is "planned", or state is "sampled"')).toBeVisible();
  await page.getByRole('button', { name: 'Make it its own here' }).click();
  await expect(page.getByLabel('Group')).toHaveText('any of');
});
