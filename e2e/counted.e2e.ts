import { readFileSync } from 'node:fs';
import { expect } from './expect';
import { Hand } from './hand';
import { cell, onFreshDemo, publishNow, seeAs, signInAsBuilder, test } from './steps';

/** How many presses, choices and texts it takes: a newcomer has a portal in minutes. */

const people =
  'Name;E-mail;Phone;Parish;Tax number\n' +
  Array.from(
    { length: 200 },
    (_, i) =>
      `Person ${i};person.${i}@example.org;01632 ${100_000 + i};${['Saltby', 'Oxlode'][i % 2]};${1e8 + i * 37}\n`,
  ).join('');

test('one CSV of 200 people becomes a published portal, each with their own row and one column masked', async ({
  page,
}) => {
  await signInAsBuilder(page);
  await page.goto('/');
  const hand = new Hand(page);
  const button = (name: string | RegExp) => page.getByRole('button', { name });
  const stage = (name: RegExp) => hand.press(page.getByRole('navigation').getByRole('link', { name }));
  await hand.write(page.getByLabel('Name', { exact: true }).first(), 'Reed Club');
  await hand.choose(page.getByLabel('Database schema'), 'a new, empty one …');
  await hand.write(page.getByLabel('Name of the new schema'), 'reed_club');
  await hand.press(button('Make the portal'));
  await hand.press(button('+ from a file'));
  await hand.file(page.getByLabel('File', { exact: true }), 'People.csv', 'text/csv', people);
  await hand.press(button('Make people with 200 rows'));
  await hand.press(button('Give all 3 the data class'));

  await stage(/^People/);
  await hand.choose(page.getByLabel('Add a roster'), 'People');
  await expect(page.getByRole('link', { name: /^People 200/ })).toBeVisible();
  await hand.press(button('Refresh from the rosters'));
  await expect(page.getByRole('link', { name: /^People 200 members/ })).toBeVisible();

  await stage(/^Access/);
  await hand.press(page.getByRole('link', { name: 'People', exact: true }));
  await hand.press(cell(page, 'people for Member: nothing'));
  await hand.press(button("Only where id is the member's row in people"));
  await hand.press(cell(page, 'Name for Member: hidden'));
  await hand.pressTo(cell(page, 'Parish for Member: hidden'));
  await expect(page.getByRole('group', { name: 'Selected stones' })).toBeVisible();
  await hand.key('2');
  await expect(cell(page, 'Parish for Member: shown')).toBeVisible();
  await hand.press(cell(page, 'Tax number for Member: hidden'));
  await hand.press(page.getByRole('group', { name: 'Level' }).getByText('masked', { exact: true }));
  await expect(cell(page, 'Tax number for Member: masked')).toBeVisible();

  await stage(/^Pages/);
  await hand.press(button('Lay down …'));
  await hand.press(button(/^Lay down \d pages?$/));
  await hand.press(page.locator('[data-person]'));
  await hand.write(page.getByLabel('Find a member'), 'Person 137');
  await hand.press(page.getByRole('dialog').getByRole('button').filter({ hasText: 'Person 137' }));
  const seen = page.getByRole('complementary', { name: 'Seen by' });
  await expect(seen.getByText('person.137@example.org').filter({ visible: true })).toBeVisible();
  await expect(seen.getByText('(partly hidden)').first()).toBeAttached();
  await expect(seen.getByText(String(1e8 + 137 * 37))).toHaveCount(0);
  await expect(seen.getByText('Person 138')).toHaveCount(0);

  await hand.press(page.getByRole('link', { name: /^Publish v1…/ }));
  await hand.press(button('Publish version 1'));
  await expect(page.getByRole('link', { name: 'Open /p/reed-club' })).toBeVisible();
  console.log(`from one CSV to a portal: ${hand.made} interactions`);
  expect(hand.made).toBeLessThanOrEqual(40);
});

test('a sheet is arranged for all, a dashboard gets its face, cards open their records: counted', async ({ page }) => {
  await signInAsBuilder(page);
  await onFreshDemo(page, async () => {
    await page.goto('/build/alder-fen/pages');
    await seeAs(page, 'Ines Brannock');
    const seen = page.getByRole('complementary', { name: 'Seen by' });
    const sheet = new Hand(page);
    const button = (name: string | RegExp) => page.getByRole('button', { name });
    await sheet.press(page.getByRole('navigation').getByRole('link', { name: 'Wells', exact: true }).last());
    await expect(page.getByRole('heading', { name: 'A record of wells' })).toBeVisible();
    await sheet.press(button('+ group'));
    await sheet.write(page.getByLabel('Heading'), 'The shaft');
    const add = page.getByLabel('Add to: Under The shaft');
    for (const column of ['Depth, m', 'Casing', 'Postcode']) {
      await sheet.choose(add, column);
      await expect(
        page.getByRole('group', { name: 'Under The shaft' }).getByText(column, { exact: true }),
      ).toBeVisible();
    }
    await sheet.press(page.getByLabel('Two beside each other: The shaft'));
    await sheet.press(page.getByRole('group', { name: 'Who gets this group' }).getByLabel('Sampler'));
    await expect(page.getByTestId('saving')).toHaveAttribute('aria-busy', 'false');
    console.log(`a sheet arranged for all: ${sheet.made} interactions`);
    expect(sheet.made).toBeLessThanOrEqual(14);

    const cards = new Hand(page);
    await cards.press(button('+ page'));
    await cards.write(page.getByLabel('Title', { exact: true }), 'Wells in pictures');
    await expect(page.getByRole('heading', { name: 'Wells in pictures' }).first()).toBeVisible();
    await cards.press(page.getByRole('checkbox', { name: 'Well owner' }));
    await cards.press(button('Section'));
    await cards.press(page.getByRole('radio', { name: /^Cards/ }));
    await cards.press(page.getByRole('dialog').getByRole('button', { name: 'Wells', exact: true }));
    await cards.choose(page.getByLabel('Picture', { exact: true }), 'the newest that hangs on the record');
    console.log(`cards with a picture: ${cards.made} interactions`);
    expect(cards.made).toBeLessThanOrEqual(8);
    await expect(seen.getByRole('heading', { name: 'Wells in pictures' })).toBeVisible();
    await expect(seen.locator('img[src*="/picture"]').first()).toBeVisible();
    await seen.getByRole('link', { name: /AF-0419/ }).click();
    const record = seen.getByRole('region', { name: 'Record' });
    await expect(record.getByRole('heading', { name: 'The shaft' })).toBeVisible();
    await expect(record.getByRole('region', { name: 'The shaft' }).getByText('Casing')).toBeVisible();

    const board = new Hand(page);
    await board.press(button('Lay down …'));
    await board.choose(page.getByRole('dialog').getByLabel('For the role'), 'Sampler');
    await board.press(button(/^Lay down \d pages?$/));
    await expect(page.getByRole('heading', { name: 'At a glance', level: 1 }).first()).toBeVisible();
    await board.press(page.getByRole('link', { name: 'Name and face' }));
    await board.write(page.getByLabel('Name', { exact: true }), 'Fen Samplers');
    await board.write(page.getByLabel('Top', { exact: true }), '#5b2a63');
    await board.write(page.getByLabel('What is pressed, and links', { exact: true }), '#5b2a63');
    await board.press(page.getByRole('radio', { name: 'Figtree' }));
    await board.press(page.getByRole('radio', { name: 'round', exact: true }));
    await board.file(page.getByLabel('Logo'), 'logo.png', 'image/png', readFileSync('demo/logo.png'));
    await expect(page.getByAltText('The logo as it is')).toBeVisible();
    await publishNow(page, (on) => board.press(on));
    console.log(`a dashboard with its face, published: ${board.made} interactions`);
    expect(board.made).toBeLessThanOrEqual(15);
  });
});
